"""A workbook read in a process of its own, with limits on memory, time and output; its rows come back as lines.

The child gets the bytes on its input and nothing else: no environment, no database, no working directory of ours.
"""

import tempfile
from collections.abc import Iterator

import orjson

from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.files import Converted
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.workbook_tables import GridRows
from uvarovite.sandbox.process import Limits, run_child

# 200,000 rows of twelve columns take 500 MB and 8 s here; a full sheet of twenty columns takes 1.4 GB. The machine may be
# busy with other things meanwhile.
LIMITS = Limits(memory_bytes=2 * 1024**3, cpu_seconds=120, output_bytes=2 * 1024**3, patience_seconds=600)


def convert_workbook(data: bytes, sheet: str | None) -> Converted:
    """Read one sheet of a workbook. Raises FileFault: what core.contacts.workbooks raises, and `unreadable`."""
    with tempfile.TemporaryFile() as given:
        given.write(orjson.dumps(sheet) + b"\n")
        given.write(data)
        given.seek(0)
        rows = tempfile.TemporaryFile()  # noqa: SIM115 - it lives as long as the rows are read from it
        ended = run_child("uvarovite.sandbox.workbook_child", given, rows, LIMITS)
    rows.seek(0)
    first = rows.readline()
    if ended != 0 or not first:
        raise FileFault("unreadable")
    told = orjson.loads(first)
    if "fault" in told:
        raise FileFault(told["fault"], **told["facts"])
    begin, height = rows.tell(), sum(1 for _ in rows)

    def lines() -> Iterator[list[str]]:
        rows.seek(begin)
        place = begin
        while line := rows.readline():
            place += len(line)
            yield [cell if isinstance(cell, str) else NumberCell(cell[0]) for cell in orjson.loads(line)]
            # Two readers may be under way: each goes on from where it was itself.
            if rows.tell() != place:
                rows.seek(place)

    return Converted(sheet=told["sheet"], sheets=tuple(told["sheets"]), grid=GridRows(rows=lines, height=height))
