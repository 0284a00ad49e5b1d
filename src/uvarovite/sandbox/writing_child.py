"""What reads a written file in a process of its own: limits first, then the reading. One line of JSON says what was found."""

import sys

from uvarovite.sandbox.process import limits_of_child


def main() -> None:
    """Read a line with the file's name and the file behind it."""
    limits_of_child().apply()

    import orjson
    from pydantic import TypeAdapter

    from uvarovite.core.messages.from_files import WordsOfFile, WritingFault, words_of_file

    out, given = sys.stdout.buffer, sys.stdin.buffer
    filename = orjson.loads(given.readline())
    try:
        found = words_of_file(given.read(), filename)
    except WritingFault as fault:
        out.write(orjson.dumps({"fault": fault.code, "facts": fault.facts}))
        return
    out.write(orjson.dumps({"found": TypeAdapter(WordsOfFile).dump_python(found, mode="json")}))
    out.flush()


if __name__ == "__main__":
    main()
