"""Rows of a file to records: each row is taken whole or refused with its reason. Nothing is written here.

A large file is validated row by row while it is read, so this is the hot path of an import. Most cells of a column repeat
(towns, choices, names, days): each column remembers what a text became, as the very stretch of stored JSON.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, NamedTuple

import orjson

from uvarovite.core.contacts.evidence import Evidence
from uvarovite.core.contacts.faults import ReadFault, of_address
from uvarovite.core.contacts.fields import Field, FieldMap, FieldType
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.records import folded_value, search_text, value_to_json
from uvarovite.core.contacts.sheets import Sheet
from uvarovite.core.contacts.tables_out import unescaped
from uvarovite.core.contacts.values import AS_WRITTEN, Reading, read_value
from uvarovite.core.values import AddressFault, fold, read_address

# How many different texts a column remembers; a column of numbers or names of its own has as many as rows.
_REMEMBERED = 20_000
# More tags than this in one cell is another kind of column.
MOST_TAGS = 20
LONGEST_TAG = 60


class ColumnUse(StrEnum):
    """What a column is for."""

    LEAVE_OUT = "leave_out"
    FIELD = "field"
    TAGS = "tags"
    TOPICS = "topics"
    AUDIENCES = "audiences"


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """What becomes of a column. `field` is the field's key for a FIELD."""

    use: ColumnUse = ColumnUse.LEAVE_OUT
    field: str | None = None
    reading: Reading = AS_WRITTEN


class TakenRow(NamedTuple):
    """A row that can be written. (A named tuple, since a million of them are made.)

    `row` is its number as a spreadsheet counts, `record` counts from 1 for the first one below the names of the columns.
    `values` and `folded` are the stored JSON of the custom fields and of all texts, `search` all texts in one;
    `address_folded` is None for a person without an address. `tags` and `topics` (by key) and `audiences` (by id) are
    None for a row without any.
    """

    row: int
    record: int
    contact_no: str | None
    address: str | None
    address_folded: str | None
    first_name: str | None
    last_name: str | None
    language: str | None
    values: str
    folded: str
    search: str
    tags: list[str] | None = None
    topics: list[str] | None = None
    audiences: list[int] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RefusedRow:
    """A row that cannot, with its cells as they were, so that it can be mended and brought in again."""

    row: int
    record: int
    faults: tuple[ReadFault, ...]
    cells: tuple[str, ...]

    @property
    def code(self) -> str:
        """That of the first fault."""
        return self.faults[0].code


class _Part(NamedTuple):
    """What one cell gives.

    `text` is a standard field's value, `value` a custom field's stretch of JSON, `folded` the stretch of JSON with its
    folded text, and `search` that text itself; `compared` is an address's form for comparing, `several` tags, topics or audiences.
    """

    text: str | None = None
    value: str | None = None
    folded: str | None = None
    search: str | None = None
    compared: str | None = None
    several: list[Any] | None = None


_BLANK = _Part()
_Found = _Part | ReadFault


class _Reader:
    """How one column is read, with what it has read already. `slot` is where a row keeps what it gives.

    `evidence` gathers what the column's cells say about how it writes numbers or days.
    """

    def __init__(
        self,
        place: int,
        slot: int,
        read: Callable[[str], "_Part | ReadFault | None"],
        evidence: Evidence | None = None,
    ) -> None:
        self.place = place
        self.slot = slot
        self._read = read
        self._evidence = evidence
        self._known: dict[str, _Found] = {}
        self.known = self._known.get

    def first(self, cell: str) -> _Found:
        """Read a text that was not seen yet."""
        if self._evidence is not None:
            self._evidence.add(cell)
        # What our own files hold of a text that a spreadsheet would run begins with an apostrophe.
        part = self._read(unescaped(cell) if cell[0] == "'" else cell) or _BLANK
        # A column of addresses or numbers repeats nothing: once the memory is full, it stays as it is.
        if len(self._known) < _REMEMBERED:
            self._known[cell] = part
        return part


# Where a row keeps what a column gives; a custom field has no place of its own.
_SLOTS = {
    "contact_no": 0, "address": 1, "first_name": 2, "last_name": 3, "language": 4, "tags": 6, "topics": 7, "audiences": 8
}  # fmt: skip
_COMPARED, _VALUE = 5, -1


@dataclass(frozen=True, slots=True, kw_only=True)
class Validator:
    """Validates the rows of one file. `topics` maps what a cell may call a topic, folded, to its key; `audiences` maps an
    audience's folded name to its id.

    `is_erased` tells of a folded address whether its owner asked to be forgotten. Once `rows` is through, `evidence` says
    by the column's place what all its cells say about how it writes numbers or days.
    """

    columns: Sequence[Column]
    fields: FieldMap
    topics: Mapping[str, str] = field(default_factory=dict)
    audiences: Mapping[str, int] = field(default_factory=dict)
    is_erased: Callable[[str], bool] = lambda address: False
    evidence: dict[int, Evidence] = field(default_factory=dict)

    def rows(self, sheet: Sheet) -> Iterator[TakenRow | RefusedRow]:
        """Validate every row in order. Raises FileFault when no column says who a person is, or the file breaks off."""
        if not has_key(self.columns):
            raise FileFault("no_key_column")
        width = len(sheet.headers)
        readers = [
            self._reader(place, column)
            for place, column in enumerate(self.columns)
            if column.use is not ColumnUse.LEAVE_OUT
        ]
        for record, (row, cells) in enumerate(sheet.rows(), start=1):
            yield _validate(row, record, cells, width, readers)

    def _reader(self, place: int, column: Column) -> _Reader:
        if column.use is ColumnUse.TAGS:
            return _Reader(place, _SLOTS["tags"], _read_tags)
        if column.use is ColumnUse.TOPICS:
            return _Reader(place, _SLOTS["topics"], self._read_topics)
        if column.use is ColumnUse.AUDIENCES:
            return _Reader(place, _SLOTS["audiences"], self._read_audiences)
        chosen = self.fields[column.field or ""]
        if chosen.key == "address":
            return _Reader(place, _SLOTS["address"], self._read_address)
        slot = _SLOTS[chosen.key] if chosen.standard else _VALUE
        evidence = None
        if chosen.type in (FieldType.NUMBER, FieldType.MONEY, FieldType.DATE, FieldType.DATE_TIME):
            evidence = self.evidence[place] = Evidence(chosen.type)
        return _Reader(place, slot, lambda cell: _read_field(cell, chosen, column.reading), evidence)

    def _read_address(self, cell: str) -> _Part | ReadFault | None:
        if not cell.strip():
            return None
        address = read_address(cell)
        if isinstance(address, AddressFault):
            return of_address(address)
        if self.is_erased(address.folded):
            return ReadFault(code="erased", facts={})
        folded = fold(address.text)
        return _Part(text=address.text, folded=_pair("address", folded), search=folded, compared=address.folded)

    def _read_topics(self, cell: str) -> _Part | ReadFault | None:
        keys: list[str] = []
        for name in _split(cell):
            key = self.topics.get(fold(name))
            if key is None:
                return ReadFault(code="no_such_topic", facts={"text": name[:40]})
            keys.append(key)
        return _Part(several=list(dict.fromkeys(keys))) if keys else None

    def _read_audiences(self, cell: str) -> _Part | ReadFault | None:
        # A name may hold a comma: the whole cell may be one.
        names = [cell] if fold(cell.strip()) in self.audiences else _split(cell)
        ids: list[int] = []
        for name in names:
            found = self.audiences.get(fold(name.strip()))
            if found is None:
                return ReadFault(code="no_such_audience", facts={"text": name.strip()[:40]})
            ids.append(found)
        return _Part(several=list(dict.fromkeys(ids))) if ids else None


def has_key(columns: Sequence[Column]) -> bool:
    """Does a column say who a person is: by address, or by contact number?"""
    return any(one.use is ColumnUse.FIELD and one.field in ("address", "contact_no") for one in columns)


def _pair(key: str, value: object) -> str:
    return f'"{key}":{orjson.dumps(value).decode()}'


def _read_field(cell: str, chosen: Field, reading: Reading) -> _Part | ReadFault | None:
    value = read_value(cell, chosen, reading)
    if value is None or isinstance(value, ReadFault):
        return value
    folded = folded_value(value)
    return _Part(
        text=value if chosen.standard and isinstance(value, str) else None,
        value=None if chosen.standard else _pair(chosen.key, value_to_json(value)),
        folded=None if folded is None else _pair(chosen.key, folded),
        search=search_text(folded),
    )


def _split(cell: str) -> list[str]:
    return [name for part in cell.replace(";", ",").replace("|", ",").split(",") if (name := part.strip())]


def tag_name(text: str) -> str:
    """A tag as it is kept: runs of blanks are one."""
    return " ".join(text.split())


def _read_tags(cell: str) -> _Part | ReadFault | None:
    names = [tag_name(name) for name in _split(cell)]
    if len(names) > MOST_TAGS or any(len(name) > LONGEST_TAG for name in names):
        return ReadFault(code="tags", facts={"most": MOST_TAGS, "longest": LONGEST_TAG})
    return _Part(several=list(dict.fromkeys(names))) if names else None


def _validate(row: int, record: int, cells: list[str], width: int, readers: Sequence[_Reader]) -> TakenRow | RefusedRow:
    if len(cells) != width and (fault := _width_fault(cells, width)):
        return _refuse(row, record, cells, [fault])
    slots: list[Any] = [None, None, None, None, None, None, None, None, None]
    values: list[str] = []
    folded: list[str] = []
    search: list[str] = []
    faults: list[ReadFault] | None = None
    for reader in readers:
        cell = cells[reader.place]
        if not cell:
            continue
        part = reader.known(cell) or reader.first(cell)
        if isinstance(part, ReadFault):
            # Whoever mends the row wants to know all of it at once.
            faults = [*(faults or ()), part]
            continue
        text, value, folded_text, found, compared, many = part
        if value is not None:
            values.append(value)
        elif many is not None:
            slots[reader.slot] = many
        elif reader.slot != _VALUE:
            slots[reader.slot] = text
            if compared is not None:
                slots[_COMPARED] = compared
        if folded_text is not None:
            folded.append(folded_text)
            search.append(found or "")
    if faults is not None:
        return _refuse(row, record, cells, faults)
    number, address, first_name, last_name, language, compared, tags, topics, audiences = slots
    if compared is None and not number:
        nobody = ReadFault(code="no_address", facts={})
        return _refuse(row, record, cells, [nobody])
    return TakenRow(
        row, record, number, address, compared, first_name, last_name, language,
        "{" + ",".join(values) + "}", "{" + ",".join(folded) + "}", " ".join(search), tags, topics, audiences,
    )  # fmt: skip


def _refuse(row: int, record: int, cells: Sequence[str], faults: Sequence[ReadFault]) -> RefusedRow:
    return RefusedRow(
        row=row,
        record=record,
        faults=tuple(faults),
        cells=tuple(str(cell) for cell in cells),
    )


def _width_fault(cells: Sequence[str], width: int) -> ReadFault | None:
    if len(cells) < width:
        there = len(cells)
        return ReadFault(code="too_few_columns", facts={"lacking": width - there, "there": there, "wanted": width})
    if any(cell.strip() for cell in cells[width:]):
        return ReadFault(code="too_many_columns", facts={"there": len(cells), "wanted": width})
    return None
