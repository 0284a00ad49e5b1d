"""What lays letters out in a process of its own: limits first, then the letters. One line of JSON, and the PDF behind it."""

import base64
import gc
import sys

from uvarovite.sandbox.process import limits_of_child

# Told now and then, so that a bar moves.
_TOLD = 10


def main() -> None:
    """Read a line with style and pictures, and a line for each letter."""
    limits_of_child().apply()

    import orjson

    from uvarovite.sandbox.layout import Layout

    given, out = sys.stdin.buffer, sys.stdout.buffer
    facts = orjson.loads(given.readline())
    pictures = {address: (kind, base64.b64decode(content)) for address, (kind, content) in facts["pictures"].items()}
    layout = Layout(facts["style"], pictures)

    # Whatever is laid out is kept until all of it is written: looking for garbage among it takes a tenth of the time.
    gc.disable()
    letters = []
    for line in given:
        letters.append(layout.document(orjson.loads(line)))
        if len(letters) % _TOLD == 0:
            print(len(letters), file=sys.stderr, flush=True)
    whole = letters[0].copy([page for letter in letters for page in letter.pages])
    pdf = whole.write_pdf()
    out.write(orjson.dumps({"pages": [len(letter.pages) for letter in letters]}) + b"\n")
    out.write(pdf)
    out.flush()


if __name__ == "__main__":
    main()
