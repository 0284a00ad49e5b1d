"""Which column of a file is for what: by its name, by what stands in it, and by what was chosen for it last time."""

import re
import unicodedata
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

from uvarovite.core.contacts.amounts import split_currency
from uvarovite.core.contacts.days import DateOrder, day_evidence
from uvarovite.core.contacts.evidence import Doubt, guess_reading
from uvarovite.core.contacts.faults import ReadFault
from uvarovite.core.contacts.fields import RESERVED, Field, FieldMap, FieldType
from uvarovite.core.contacts.validating import Column, ColumnUse
from uvarovite.core.contacts.values import Reading, read_value
from uvarovite.core.values import AddressFault, fold, read_address

# What people call the standard fields in files, beyond key and label; folded, letters and digits only.
_ALIASES: dict[str, tuple[str, ...]] = {
    "address": ("email", "emailaddress", "mail", "emailadresse", "courriel", "adresemail", "emails", "emailaddr"),
    "first_name": ("firstname", "forename", "givenname", "given", "vorname", "prenom", "imie", "first"),
    "last_name": ("lastname", "surname", "familyname", "family", "nachname", "nom", "nazwisko", "last"),
    "language": ("lang", "locale", "sprache", "langue", "jezyk"),
    "contact_no": ("contactno", "contactnumber", "memberno", "membernumber", "customerno", "customernumber"),
}
# What may be a contact number, or the number of anything else: it is asked, never assumed.
_ANY_NUMBER = frozenset({"id", "no", "nr", "num", "number", "nummer", "numero", "numer", "key", "code", "index", "row"})
_TAGS = frozenset({"tag", "tags", "labels", "categories", "kategorien"})
_TOPICS = frozenset({"topic", "topics", "subscriptions", "subscribedto", "themen"})
# A choice has few values that come again and again.
_MOST_CHOICES_GUESSED = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Match:
    """What a column is taken for. `confidence` runs from 0 to 1; `basis` is name, content, memory, chosen or nothing.

    `proposal` is the field that could be made of a column that fits none; `doubts` are what has two readings in it.
    """

    column: Column
    confidence: float
    basis: str
    proposal: Field | None = None
    doubts: frozenset[Doubt] = frozenset()


def plain_name(name: str) -> str:
    """A column's name for comparing: letters and digits only, without case and accents."""
    letters = unicodedata.normalize("NFD", fold(name))
    return re.sub(r"[^a-z0-9]", "", letters) or fold(name).strip()


def match_columns(
    headers: Sequence[str],
    samples: Sequence[Sequence[str]],
    fields: FieldMap,
    *,
    topics: Mapping[str, str] | None = None,
    memory: Sequence[Column] | None = None,
) -> list[Match]:
    """A match for each header. `samples` holds the first cells of each column that are not blank.

    No field is matched twice; the first column that fits has it. `memory` is what was chosen for the same headers.
    """
    by_name: dict[str, str] = {}
    for key, field in fields.items():
        for name in (key, field.label, *_ALIASES.get(key, ())):
            by_name.setdefault(plain_name(name), key)
    taken: set[str] = set()
    matches: list[Match] = []
    for place, (header, cells) in enumerate(zip(headers, samples, strict=True)):
        remembered = memory[place] if memory is not None and place < len(memory) else None
        match = (
            _from_memory(remembered, fields)
            or _by_name(header, cells, by_name, fields, topics or {})
            or _by_content(cells, taken, fields, topics or {})
            or Match(column=Column(), confidence=0.0, basis="nothing")
        )
        if match.column.field in taken:
            match = Match(column=Column(), confidence=0.0, basis="nothing")
        if match.column.field is not None:
            taken.add(match.column.field)
        matches.append(match)
    if "address" not in taken:
        matches = _address_by_content(matches, samples)
    return [
        _finish(match, header, cells, fields) for match, header, cells in zip(matches, headers, samples, strict=True)
    ]


def _from_memory(column: Column | None, fields: FieldMap) -> Match | None:
    if column is None or (column.use is ColumnUse.FIELD and column.field not in fields):
        return None
    return Match(column=column, confidence=1.0, basis="memory")


def _by_name(
    header: str, cells: Sequence[str], by_name: Mapping[str, str], fields: FieldMap, topics: Mapping[str, str]
) -> Match | None:
    name = plain_name(header)
    if name in _TAGS and name not in by_name:
        return Match(column=Column(use=ColumnUse.TAGS), confidence=0.9, basis="name")
    if name in _TOPICS and name not in by_name and any(fold(cell) in topics for cell in cells):
        return Match(column=Column(use=ColumnUse.TOPICS), confidence=0.9, basis="name")
    key = by_name.get(name)
    if key is None:
        return None
    reading, _ = guess_reading(cells, fields[key].type)
    fit = _share_that_reads(cells, fields[key], reading)
    # A name that fits and cells that do not is a column of something else, most often. Only nothing else is called
    # e-mail: a list full of broken addresses is still one of addresses.
    if fit < 0.2 and len(cells) >= 5 and key != "address":
        return None
    column = Column(use=ColumnUse.FIELD, field=key, reading=reading)
    return Match(column=column, confidence=round(0.5 + 0.5 * fit, 2), basis="name")


def _by_content(
    cells: Sequence[str], taken: Collection[str], fields: FieldMap, topics: Mapping[str, str]
) -> Match | None:
    """A column whose cells are all names of topics, or all choices of one field, whatever it is called."""
    found = {fold(name.strip()) for cell in cells for name in re.split(r"[,;|]", cell) if name.strip()}
    if len(cells) < 2 or not found:
        return None
    if found <= topics.keys():
        return Match(column=Column(use=ColumnUse.TOPICS), confidence=0.7, basis="content")
    words = {fold(cell.strip()) for cell in cells} - {"none", "-"}
    fitting = [
        field.key
        for field in fields.values()
        if field.type is FieldType.CHOICE
        and field.key not in taken
        and words
        and words <= {fold(choice) for choice in field.choices}
    ]
    # Two fields with the same choices leave it open which one is meant.
    if len(fitting) != 1:
        return None
    return Match(column=Column(use=ColumnUse.FIELD, field=fitting[0]), confidence=0.7, basis="content")


def _share_that_reads(cells: Sequence[str], field: Field, reading: Reading) -> float:
    if not cells:
        return 1.0
    if field.key == "address":
        return sum(not isinstance(read_address(cell), AddressFault) for cell in cells) / len(cells)
    return sum(not isinstance(read_value(cell, field, reading), ReadFault) for cell in cells) / len(cells)


def _address_by_content(matches: list[Match], samples: Sequence[Sequence[str]]) -> list[Match]:
    """The column in which most cells are addresses, where none is called so."""

    def share(place: int) -> float:
        cells = samples[place]
        if matches[place].column.use is not ColumnUse.LEAVE_OUT or len(cells) < 1:
            return 0.0
        return sum("@" in cell and not isinstance(read_address(cell), AddressFault) for cell in cells) / len(cells)

    best = max(range(len(matches)), key=share, default=None)
    if best is None or share(best) < 0.6:
        return matches
    found = Match(
        column=Column(use=ColumnUse.FIELD, field="address"), confidence=round(0.9 * share(best), 2), basis="content"
    )
    return [found if place == best else match for place, match in enumerate(matches)]


def _finish(match: Match, header: str, cells: Sequence[str], fields: FieldMap) -> Match:
    if match.column.use is ColumnUse.FIELD and match.column.field is not None:
        return replace(match, doubts=guess_reading(cells, fields[match.column.field].type)[1])
    if match.column.use is ColumnUse.LEAVE_OUT and header and cells:
        asked = frozenset({Doubt.CONTACT_NUMBER}) if plain_name(header) in _ANY_NUMBER else frozenset()
        return replace(match, proposal=propose_field(header, cells, fields), doubts=asked)
    return match


def propose_field(header: str, cells: Sequence[str], fields: FieldMap) -> Field:
    """The field that could be made of a column: its type from what stands in it, its key from its name."""
    label = " ".join(header.split())[:80] or "Field"
    type_ = guess_type(cells)
    currency: str | None = None
    choices: tuple[str, ...] = ()
    if type_ is FieldType.MONEY:
        currency = next((code for cell in cells if (code := split_currency(cell.strip())[1])), "EUR")
    if type_ is FieldType.CHOICE:
        choices = tuple(dict.fromkeys(cell.strip() for cell in cells))
    return Field(key=field_key_of(label, fields), label=label, type=type_, currency=currency, choices=choices)


def field_key_of(label: str, fields: FieldMap) -> str:
    """A key from a label that no field has yet."""
    letters = unicodedata.normalize("NFKD", fold(label)).encode("ascii", "ignore").decode()
    key = re.sub(r"[^a-z0-9]+", "_", letters).strip("_")[:50] or "field"
    if not key[0].isalpha():
        key = f"field_{key}"
    if key in RESERVED:
        key = f"{key}_field"
    number, unique = 2, key
    while unique in fields:
        unique, number = f"{key}_{number}", number + 1
    return unique


def guess_type(cells: Sequence[str]) -> FieldType:
    """The narrowest type that every cell fits."""
    cells = [cell.strip() for cell in cells if cell.strip()]
    if not cells:
        return FieldType.TEXT

    def fits(type_: FieldType) -> bool:
        reading, doubts = guess_reading(cells, type_)
        # Either reading fits what is in doubt.
        if Doubt.DATE_ORDER in doubts:
            reading = replace(reading, date_order=DateOrder.DAY_FIRST)
        if Doubt.CENTURY in doubts:
            reading = replace(reading, century=2000)
        if Doubt.DECIMAL in doubts:
            reading = replace(reading, decimal_comma=False)
        field = Field(key="probe", label="", type=type_, currency="EUR")
        return not any(isinstance(read_value(cell, field, reading), ReadFault) for cell in cells)

    words = {fold(cell) for cell in cells}
    if len(words) <= 2 and not words <= {"0", "1"} and fits(FieldType.YES_NO):
        return FieldType.YES_NO
    # A column of mere numbers is one of numbers, whatever days they could count.
    if not all(day_evidence(cell).serial for cell in cells):
        if fits(FieldType.DATE):
            return FieldType.DATE
        if fits(FieldType.DATE_TIME):
            return FieldType.DATE_TIME
    currencies = {split_currency(cell)[1] for cell in cells} - {None}
    if len(currencies) == 1:
        probe = Field(key="probe", label="", type=FieldType.MONEY, currency=currencies.pop())
        reading, _ = guess_reading(cells, FieldType.MONEY)
        if not any(isinstance(read_value(cell, probe, reading), ReadFault) for cell in cells):
            return FieldType.MONEY
    # What begins with 0 is a code, such as a postcode, and would lose its zeros as a number.
    if not any(re.match(r"0\d", cell) for cell in cells) and fits(FieldType.NUMBER):
        return FieldType.NUMBER
    counted = Counter(words)
    if 2 <= len(counted) <= _MOST_CHOICES_GUESSED and len(cells) >= 4 * len(counted):
        return FieldType.CHOICE
    return FieldType.TEXT
