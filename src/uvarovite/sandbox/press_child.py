"""What makes PDFs for `sandbox.press`: limits first, then a letter for each line of its input until there is none.

The answer is a line with the size of the PDF, 0 for one that is too large, and the PDF behind it.
"""

import base64
import sys

from uvarovite.sandbox.process import limits_of_child


def main() -> None:
    """Answer letter after letter."""
    limits_of_child().apply()

    import orjson

    from uvarovite.sandbox.layout import Layout
    from uvarovite.sandbox.press import LARGEST_PDF

    given, out = sys.stdin.buffer, sys.stdout.buffer
    for line in given:
        asked = orjson.loads(line)
        pictures = {
            address: (kind, base64.b64decode(content)) for address, (kind, content) in asked["pictures"].items()
        }
        pdf = Layout(asked["style"], pictures).document(asked["letter"]).write_pdf()
        if len(pdf) > LARGEST_PDF:
            pdf = b""
        out.write(b"%d\n" % len(pdf) + pdf)
        out.flush()


if __name__ == "__main__":
    main()
