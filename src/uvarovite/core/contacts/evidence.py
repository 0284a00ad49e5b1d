"""How a column writes numbers and days: what its cells decide together, and what has to be asked.

One cell such as 31/12/2026 or 12,50 decides for all of them; where none does, or two contradict each other, nothing is
assumed and a person has to say it.
"""

from collections.abc import Collection, Iterable
from dataclasses import replace
from enum import StrEnum

from uvarovite.core.contacts.amounts import Style, style_of
from uvarovite.core.contacts.days import DateOrder, day_evidence
from uvarovite.core.contacts.fields import FieldType
from uvarovite.core.contacts.values import AS_WRITTEN, Reading


class Doubt(StrEnum):
    """What the column leaves open and a person has to say."""

    DATE_ORDER = "date_order"
    CENTURY = "century"
    DECIMAL = "decimal"
    CONTACT_NUMBER = "contact_number"


_DATES = (FieldType.DATE, FieldType.DATE_TIME)
_NUMBERS = (FieldType.NUMBER, FieldType.MONEY)


class Evidence:
    """What the cells of a column decide about how it writes numbers or days, and what they leave open."""

    def __init__(self, type_: FieldType) -> None:
        self._type = type_
        self._styles: set[Style] = set()
        self._orders: set[DateOrder] = set()
        self._either = self._short = self._clear = False
        self._serials = 0

    def add(self, cell: str) -> None:
        """Take one more cell into account."""
        if self._type in _NUMBERS:
            if (style := style_of(cell)) is not None:
                self._styles.add(style)
        elif self._type in _DATES:
            found = day_evidence(cell)
            self._either |= found.either
            self._short |= found.short
            self._serials += found.serial
            self._clear |= not found.serial
            if found.order is not None:
                self._orders.add(found.order)

    def reading(self) -> tuple[Reading, frozenset[Doubt]]:
        """How the column is to be read, and what has to be asked, since its cells decide it neither way or both ways."""
        reading, doubts = AS_WRITTEN, set()
        decided = self._styles - {Style.EITHER}
        if Style.EITHER in self._styles and len(decided) != 1:
            doubts.add(Doubt.DECIMAL)
        elif len(decided) == 1:
            reading = replace(reading, decimal_comma=Style.COMMA in decided)
        if self._serials and not self._clear:
            reading = replace(reading, date_order=DateOrder.SERIAL)
        elif len(self._orders) == 1:
            reading = replace(reading, date_order=next(iter(self._orders)))
        elif self._either or self._orders:
            doubts.add(Doubt.DATE_ORDER)
        if self._short:
            doubts.add(Doubt.CENTURY)
        return reading, frozenset(doubts)


def guess_reading(cells: Iterable[str], type_: FieldType) -> tuple[Reading, frozenset[Doubt]]:
    """How a column of a type writes what has several readings, and what its cells leave open."""
    evidence = Evidence(type_)
    for cell in cells:
        evidence.add(cell)
    return evidence.reading()


def open_doubts(doubts: Collection[Doubt], reading: Reading) -> frozenset[Doubt]:
    """What is still to be said about a column that is read like this."""
    said = {
        Doubt.DATE_ORDER: reading.date_order is not None,
        Doubt.CENTURY: reading.century is not None,
        Doubt.DECIMAL: reading.decimal_comma is not None,
    }
    return frozenset(doubt for doubt in doubts if not said.get(doubt, False))
