"""The values of written criteria, by the type of the field that they are compared with, and the field itself."""

import re
from collections.abc import Sequence
from datetime import date
from typing import Literal as Tag

from uvarovite.core.contacts import Field, FieldMap, FieldType
from uvarovite.core.contacts.amounts import read_decimal, split_currency
from uvarovite.core.contacts.days import UnreadDay, read_day
from uvarovite.core.expressions.meant import habits
from uvarovite.core.expressions.meant.pieces import PieceReader, Unclear
from uvarovite.core.expressions.tree import (
    DateLiteral,
    Literal,
    MoneyLiteral,
    NowLiteral,
    NumberLiteral,
    PeriodLiteral,
    TextLiteral,
    TodayLiteral,
)
from uvarovite.core.language import nearest
from uvarovite.core.values import fold


class ValueReader(PieceReader):
    """`decimal_comma` is the organisation's style of numbers; None: 1,000 has no reading."""

    def __init__(self, text: str, fields: FieldMap, decimal_comma: bool | None) -> None:
        super().__init__(text)
        self._fields = fields
        self._decimal_comma = decimal_comma
        self._or_taken = False

    def _field_here(self, *, exactly: bool = False) -> Field | None:
        """The field that is named here, by key, label, another usual name, or nearly so; stepped over."""
        by_name: dict[str, str] = {}
        for key, field in self._fields.items():
            for name in (key, field.label):
                by_name.setdefault(_plain(name), key)
        for name, keys in habits.OTHER_NAMES.items():
            there = next((key for key in keys if key in self._fields), None)
            if there is not None:
                by_name.setdefault(_plain(name), there)
        for count in range(6, 0, -1):
            pieces = self._all[self._at : self._at + count]
            if len(pieces) == count and all(one.kind == "word" for one in pieces):
                named = by_name.get(_plain(" ".join(one.text for one in pieces)))
                if named is not None:
                    self._at += count
                    return self._fields[named]
        piece = self._here()
        if exactly or piece is None or piece.kind != "word" or piece.word in habits.AND | habits.OR:
            return None
        # Nearly the name of a field, and something that can follow a field comes after it.
        near = nearest(piece.text, by_name) if len(piece.text) > 3 else None
        if near is None:
            return None
        self._at += 1
        return self._fields[by_name[near]]

    def _values(self, field: Field, *, choices: bool = True) -> Sequence[Literal]:
        """One value or several, in brackets or between commas."""
        bracket = self._word() in ("(", "[")
        self._at += bracket
        found = [self._value(field, choices=choices)]
        self._or_taken = False
        while self._word() in (",", "or") and (bracket or self._value_follows(field)):
            self._or_taken |= self._word() == "or"
            self._at += 1
            found.append(self._value(field, choices=choices))
        if bracket:
            if self._word() == ")":
                self._at += 1
            elif self._here() is not None:
                self._unclear()
        return found

    def _value_follows(self, field: Field) -> bool:
        """Is what stands behind the comma or `or` one more value, and no condition of its own?"""
        mark = self._at
        self._at += 1
        if self._field_here(exactly=True) is not None:
            self._at = mark
            return False
        try:
            self._value(field)
        except Unclear:
            return False
        else:
            return self._until_joint() == 0
        finally:
            self._at = mark

    def _value(self, field: Field, *, choices: bool = True) -> Literal:
        match field.type:
            case FieldType.NUMBER | FieldType.MONEY | FieldType.LIST:
                return self._number(field)
            case FieldType.DATE | FieldType.DATE_TIME:
                return self._day(field)
        piece = self._here()
        if piece is None:
            self._unclear()
        if piece.kind == "text":
            self._at += 1
            text = piece.text
            if self._until_joint():
                self._unclear()
        else:
            count = self._until_joint()
            if not count or any(one.kind == "text" for one in self._all[self._at : self._at + count]):
                self._unclear()
            text = self._text_from(self._at, count)
            self._at += count
        if field.type is FieldType.CHOICE and choices and fold(text) not in {fold(one) for one in field.choices}:
            found = nearest(text, field.choices)
            if found is None:
                self._unclear()
            text = found
        return TextLiteral(text=text)

    def _number(self, field: Field) -> Literal:
        piece = self._here()
        currency: str | None = None
        if piece is not None and piece.kind == "word" and piece.word in habits.CURRENCY_WORDS:
            currency = habits.CURRENCY_WORDS[piece.word]
            self._at += 1
            piece = self._here()
        if piece is None or piece.kind not in ("number", "text"):
            self._unclear()
        rest, sign = split_currency(piece.text.strip())
        number = read_decimal(rest, self._decimal_comma)
        if number is None:
            self._unclear()
        self._at += 1
        if (word := self._word()) in habits.CURRENCY_WORDS:
            currency = habits.CURRENCY_WORDS[word]
            self._at += 1
        if field.type is not FieldType.MONEY:
            if sign or currency:
                self._unclear()
            return NumberLiteral(number=number)
        wanted = field.currency or "EUR"
        if {sign, currency} - {None, wanted}:
            self._unclear()
        return MoneyLiteral(amount=number, currency=wanted)

    def _day(self, field: Field) -> Literal:
        word = self._word()
        if word == "now" and field.type is FieldType.DATE_TIME:
            self._at += 1
            return NowLiteral()
        if word in ("today", "now", "yesterday", "tomorrow"):
            self._at += 1
            near = {"yesterday": -1, "tomorrow": 1}.get(word, 0)
            if near == 0 and self._word() in ("+", "-"):
                sign = -1 if self._word() == "-" else 1
                self._at += 1
                period = self._period()
                return TodayLiteral(count=sign * period.count, unit=period.unit)
            return TodayLiteral(count=near, unit="days")
        ahead = 1 if word == "in" and self._here(1) and self._here(1).kind == "number" else 0  # type: ignore[union-attr]
        mark = self._at
        self._at += ahead
        try:
            period = self._period()
        except Unclear:
            self._at = mark
        else:
            if ahead:
                return TodayLiteral(count=period.count, unit=period.unit)
            if self._word() == "ago":
                self._at += 1
                return TodayLiteral(count=-period.count, unit=period.unit)
            self._unclear()
        for count in range(4, 0, -1):
            text = self._text_from(self._at, count).strip("\"'")
            day = read_day(text, None, None) if text else UnreadDay.NONE
            if isinstance(day, UnreadDay):
                day = _one_reading(text)
            if isinstance(day, date):
                self._at += count
                return DateLiteral(day=day)
        self._unclear()

    def _period(self) -> PeriodLiteral:
        piece = self._here()
        number: int | None = None
        if piece is not None and piece.kind == "number" and piece.text.strip().isdigit():
            number = int(piece.text)
        elif piece is not None and piece.word in habits.NUMBER_WORDS:
            number = habits.NUMBER_WORDS[piece.word]
        if number is None or number > 100_000:
            self._unclear()
        unit = self._word(1)
        units: dict[str, tuple[Tag["days", "weeks", "months"], int]] = {
            "day": ("days", 1), "days": ("days", 1), "week": ("weeks", 1), "weeks": ("weeks", 1),
            "month": ("months", 1), "months": ("months", 1), "year": ("months", 12), "years": ("months", 12),
        }  # fmt: skip
        if unit not in units:
            self._unclear()
        self._at += 2
        name, times = units[unit]
        return PeriodLiteral(count=number * times, unit=name)


def _plain(name: str) -> str:
    return re.sub(r"[\s_-]+", "", fold(name))


def _one_reading(text: str) -> date | UnreadDay:
    """A day whose order is told by its own numbers: 31/12/2026, but not 03/04/2026."""
    found = re.fullmatch(r"(\d{1,2})[/-](\d{1,2})[/-](\d{4})", text)
    if found is None:
        return UnreadDay.NONE
    first, second, year = map(int, found.groups())
    day, month = (first, second) if first > 12 >= second else (second, first) if second > 12 >= first else (0, 0)
    try:
        return date(year, month, day)
    except ValueError:
        return UnreadDay.MISSING
