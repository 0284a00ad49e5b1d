"""What runs in the child: limits first, then the reading. One line of JSON says what was found, then a line for each row.

A number's text stands in a list of its own, so that the reader knows it from a text that looks like one.
"""

import resource
import sys


def main() -> None:
    memory, seconds, output = map(int, sys.argv[1:4])
    sheet = sys.argv[4][1:] if sys.argv[4] else None
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_FSIZE, (output, output))
    resource.setrlimit(resource.RLIMIT_NOFILE, (32, 32))

    import orjson

    from uvarovite.core.contacts.amounts import NumberCell
    from uvarovite.core.contacts.sheets import FileFault
    from uvarovite.core.contacts.workbooks import read_grid

    out = sys.stdout.buffer
    try:
        grid = read_grid(sys.stdin.buffer.read(), sheet=sheet)
    except FileFault as fault:
        out.write(orjson.dumps({"fault": fault.code, "message": fault.message}))
        return
    out.write(orjson.dumps({"sheet": grid.sheet, "sheets": grid.sheets}) + b"\n")
    for row in grid.rows:
        out.write(orjson.dumps([[str(cell)] if isinstance(cell, NumberCell) else cell for cell in row]) + b"\n")
    out.flush()


if __name__ == "__main__":
    main()
