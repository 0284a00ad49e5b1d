"""What reads a picture in a process of its own: limits first, then the reading. A line of JSON, then the picture's bytes."""

import sys

from uvarovite.sandbox.process import limits_of_child


def main() -> None:
    """Read a file, and write it as it is kept."""
    limits_of_child().apply()

    import orjson

    from uvarovite.core.messages.pictures import PictureFault, ready_picture

    out = sys.stdout.buffer
    try:
        found = ready_picture(sys.stdin.buffer.read())
    except PictureFault as fault:
        out.write(orjson.dumps({"fault": fault.code, "facts": fault.facts}) + b"\n")
        return
    out.write(orjson.dumps({"kind": found.kind, "width": found.width, "height": found.height}) + b"\n")
    out.write(found.content)
    out.flush()


if __name__ == "__main__":
    main()
