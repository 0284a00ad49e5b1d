"""Rows of a file to records: each row is taken whole or refused with its reason. Nothing is written here."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from uvarovite.core.contacts.fields import FieldMap
from uvarovite.core.contacts.records import Record
from uvarovite.core.contacts.sheets import FileFault, Sheet
from uvarovite.core.contacts.values import ReadFault, Value, read_value
from uvarovite.core.values import AddressFault, read_address


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenRow:
    """A row that can be written. `address_folded` is None for a person without an address."""

    row: int
    record: Record
    address_folded: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RefusedRow:
    """A row that cannot, with its cells as they were, so that it can be mended and brought in again."""

    row: int
    code: str
    message: str
    cells: tuple[str, ...]


def judge_rows(sheet: Sheet, columns: Sequence[str | None], fields: FieldMap) -> Iterator[TakenRow | RefusedRow]:
    """Judge every row in order. `columns` holds a field key or None for each header.

    Raises FileFault when no column says who a person is, or when the file breaks off.
    """
    if "address" not in columns and "contact_no" not in columns:
        raise FileFault(
            "no_key_column",
            "No column holds e-mail addresses or contact numbers, so nobody can be told apart. "
            "Choose the column with the addresses.",
        )
    seen: dict[str, int] = {}
    for row, cells in sheet.rows():
        judged = _judge_row(row, cells, columns, fields, len(sheet.headers))
        if isinstance(judged, TakenRow):
            number = judged.record.get("contact_no")
            key = f"no {number}" if number else f"address {judged.address_folded}"
            first = seen.setdefault(key, row)
            if first != row:
                what = "contact number" if number else "address"
                judged = _refuse(row, cells, "repeated", f"The same {what} stands in row {first} already.")
        yield judged


def _refuse(row: int, cells: Sequence[str], code: str, message: str) -> RefusedRow:
    return RefusedRow(row=row, code=code, message=message, cells=tuple(cells))


def _judge_row(
    row: int, cells: list[str], columns: Sequence[str | None], fields: FieldMap, width: int
) -> TakenRow | RefusedRow:
    if len(cells) < width:
        lacking = width - len(cells)
        plural = "column is" if lacking == 1 else "columns are"
        return _refuse(row, cells, "too_few_columns", f"{lacking} {plural} missing: {len(cells)} of {width} are there.")
    if any(cell.strip() for cell in cells[width:]):
        return _refuse(
            row,
            cells,
            "too_many_columns",
            f"There are {len(cells)} cells for {width} columns. A stray delimiter?",
        )
    record: dict[str, Value] = {}
    folded: str | None = None
    for key, cell in zip(columns, cells, strict=False):
        if key is None:
            continue
        if key == "address":
            if not cell.strip():
                continue
            address = read_address(cell)
            if isinstance(address, AddressFault):
                return _refuse(row, cells, f"address_{address.code}", address.message)
            record[key], folded = address.text, address.folded
            continue
        value = read_value(cell, fields[key])
        if isinstance(value, ReadFault):
            return _refuse(row, cells, value.code, value.message)
        if value is not None:
            record[key] = value
    if folded is None and not record.get("contact_no"):
        return _refuse(row, cells, "no_address", "There is neither an address nor a contact number.")
    return TakenRow(row=row, record=record, address_folded=folded)
