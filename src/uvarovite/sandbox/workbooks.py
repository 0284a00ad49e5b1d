"""A workbook read in a process of its own, with limits on memory, time and output; its rows come back as lines.

The child gets the bytes on its input and nothing else: no environment, no database, no working directory of ours.
"""

import subprocess
import sys
import tempfile
from collections.abc import Iterator
from typing import IO

import orjson

from uvarovite.core.contacts.amounts import NumberCell
from uvarovite.core.contacts.files import Converted
from uvarovite.core.contacts.sheets import FileFault
from uvarovite.core.contacts.workbook_tables import GridRows

# 200,000 rows of twelve columns take 500 MB and 8 s here; a full sheet of twenty columns takes 1.4 GB.
MEMORY_BYTES = 2 * 1024**3
CPU_SECONDS = 120
# The same in a machine that is busy with other things.
PATIENCE_SECONDS = 600
OUTPUT_BYTES = 2 * 1024**3


def convert_workbook(data: bytes, sheet: str | None) -> Converted:
    """Read one sheet of a workbook. Raises FileFault: what core.contacts.workbooks raises, and `unreadable`."""
    with tempfile.TemporaryFile() as given:
        given.write(data)
        given.seek(0)
        rows = tempfile.TemporaryFile()  # noqa: SIM115 - it lives as long as the rows are read from it
        ended = _run(given, rows, ["" if sheet is None else f"={sheet}"])
    rows.seek(0)
    first = rows.readline()
    if ended != 0 or not first:
        raise FileFault(
            "unreadable",
            "Reading this workbook took more time or memory than a contact list should. Nothing was brought in. "
            "Save the sheet as “CSV UTF-8” instead.",
        )
    told = orjson.loads(first)
    if "fault" in told:
        raise FileFault(told["fault"], told["message"])
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


def _run(given: IO[bytes], rows: IO[bytes], arguments: list[str]) -> int:
    limits = [str(MEMORY_BYTES), str(CPU_SECONDS), str(OUTPUT_BYTES)]
    try:
        return subprocess.run(
            [sys.executable, "-I", "-m", "uvarovite.sandbox.child", *limits, *arguments],
            stdin=given,
            stdout=rows,
            stderr=subprocess.DEVNULL,
            cwd="/",
            env={"LC_ALL": "C.UTF-8"},
            timeout=PATIENCE_SECONDS,
            check=False,
        ).returncode
    except subprocess.TimeoutExpired:
        return -1
