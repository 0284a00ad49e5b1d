"""What reads a workbook in a process of its own: limits first, then the reading.

One line of JSON says what was found, then comes a line for each row. A number's text stands in a list of its own, so that
the reader knows it from a text that looks like one.
"""

import sys

from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.sandbox.process import limits_of_child


def main() -> None:
    """Read a line with the sheet's name, or null, and the workbook behind it."""
    limits_of_child().apply()

    import orjson

    from uvarovite.core.contacts.amounts import NumberCell
    from uvarovite.core.contacts.workbooks import read_grid

    out, given = sys.stdout.buffer, sys.stdin.buffer
    sheet = orjson.loads(given.readline())
    try:
        grid = read_grid(given.read(), sheet=sheet)
    except FileFault as fault:
        out.write(orjson.dumps({"fault": fault.code, "facts": fault.fault.facts}))
        return
    out.write(orjson.dumps({"sheet": grid.sheet, "sheets": grid.sheets}) + b"\n")
    for row in grid.rows:
        out.write(orjson.dumps([[str(cell)] if isinstance(cell, NumberCell) else cell for cell in row]) + b"\n")
    out.flush()


if __name__ == "__main__":
    main()
