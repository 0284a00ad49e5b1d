"""Written criteria as a tree: joints and brackets, what asks about more than the record, fields and their operators."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import timedelta
from typing import Literal as Tag

from uvarovite.core.contacts import Field, FieldMap, FieldType
from uvarovite.core.expressions.meant import habits
from uvarovite.core.expressions.meant.pieces import Unclear
from uvarovite.core.expressions.meant.values import ValueReader
from uvarovite.core.expressions.names import Names
from uvarovite.core.expressions.subjects import EVENTS, NAME_KINDS, SUBJECTS, EventName, NameKind
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    Condition,
    DateLiteral,
    History,
    Items,
    Literal,
    Node,
    Not,
    PeriodLiteral,
    TodayLiteral,
)
from uvarovite.core.language import nearest
from uvarovite.core.values import fold

# Makes a condition of an operator and its values.
_Make = Callable[..., Condition]
# Deeper than people write, and than the reading needs.
_DEEPEST = 20


_EVENT_WORDS = {word: row.key for row in EVENTS.values() for word in (row.key, *row.habits)}


class CriteriaReader(ValueReader):
    """Reads written criteria. Raises Unclear where they have no meaning, or several."""

    def __init__(self, text: str, fields: FieldMap, names: Names, decimal_comma: bool | None) -> None:
        super().__init__(text, fields, decimal_comma)
        self._names = names
        self._depth = 0

    # ------------------------------------------------------------------ the whole, groups

    def whole(self) -> Node:
        """All of the text as one tree."""
        while self._word() in habits.FILLERS and self._here(1) is not None:
            self._at += 1
        if self._word() in habits.EVERYONE:
            self._at += 1
            while self._word() in habits.FILLERS:
                self._at += 1
            if self._here() is None:
                return All(children=())
            if self._take(habits.EXCEPT):
                return self._end(Not(child=self._alternatives()))
            self._take(habits.AND)
        return self._end(self._alternatives())

    def _end(self, node: Node) -> Node:
        # Brackets that close nothing are left out, where nothing comes after them.
        while self._word() in (")", ".") or (self._here() and self._here().kind == "sign" and self._word() == ","):  # type: ignore[union-attr]
            self._at += 1
        if self._here() is not None:
            self._unclear()
        return node

    def _alternatives(self) -> Node:
        self._depth += 1
        if self._depth > _DEEPEST:
            self._unclear()
        parts = [self._joined()]
        while self._word() in habits.OR:
            self._at += 1
            more = self._only_values(parts[-1], "is", "in")
            if more is not None:
                parts[-1] = more
            else:
                parts.append(self._joined())
        self._depth -= 1
        return parts[0] if len(parts) == 1 else AnyOf(children=tuple(parts))

    def _joined(self) -> Node:
        parts = [self._one()]
        while True:
            if self._take(habits.EXCEPT):
                parts.append(Not(child=self._one()))
            elif self._word() in habits.AND or (self._word() == "," and self._here(1) is not None):
                self._at += 1
                more = self._only_values(parts[-1], "is_not", "not_in")
                if more is not None:
                    parts[-1] = more
                else:
                    parts.append(self._one())
            elif self._word() in habits.OR and isinstance(parts[-1], Condition):
                # `is "A" or "B"`: what follows may be one more value of the condition before.
                mark = self._at
                self._at += 1
                more = self._only_values(parts[-1], "is", "in")
                if more is None:
                    self._at = mark
                    break
                parts[-1] = more
            else:
                break
        return parts[0] if len(parts) == 1 else All(children=tuple(parts))

    def _only_values(self, before: Node, single: str, several: str) -> Node | None:
        """The condition before with one more value, where what stands here is nothing but a value."""
        if not isinstance(before, Condition) or before.operator not in (single, several):
            return None
        mark = self._at
        if self._field_here(exactly=True) is not None:
            self._at = mark
            return None
        try:
            values = self._values(self._fields[before.field])
        except Unclear:
            self._at = mark
            return None
        return Condition(field=before.field, operator=several, values=(*before.values, *values), counted=before.counted)

    def _one(self) -> Node:
        if self._word() in ("not", "!") and self._event(1) is None:
            self._at += 1
            return Not(child=self._one())
        if self._word() == "(":
            self._at += 1
            node = self._alternatives()
            if self._word() == ")":
                self._at += 1
            elif self._here() is not None:
                self._unclear()
            return node
        return self._about() or self._condition()

    # ------------------------------------------------------------------ what asks about more than the record

    def _about(self) -> Node | None:
        for row in SUBJECTS.values():
            if row.names is not None and self._take(row.habits):
                name = self._name(NAME_KINDS[row.names].known(self._names))
                tail = self._when_subscribed() if row.key == "subscribed" else {}
                return row.make(**{row.attribute: name}, **tail)
        mark = self._at
        never = self._take(habits.NEVER) is not None
        event = self._event(0)
        if event is None:
            self._at = mark
            return None
        self._at += 1
        self._take(("campaign", "the campaign", "message", "the message", "mail", "anything from"))
        campaign: str | None = None
        if (piece := self._here()) and (piece.kind == "text" or self._known_campaign()):
            campaign = self._name(NAME_KINDS[NameKind.CAMPAIGN].known(self._names))
        within: PeriodLiteral | None = None
        if self._take(habits.WITHIN_LAST):
            within = self._period()
        return History(event=event, campaign=campaign, within=within, never=never)

    def _when_subscribed(self) -> dict[str, DateLiteral | TodayLiteral]:
        day = Field(key="day", label="Day", type=FieldType.DATE)
        if self._take(("since",)):
            return {"since": self._fixed(self._day(day))}
        if self._take(("as of", "on")):
            return {"as_of": self._fixed(self._day(day))}
        return {}

    def _fixed(self, day: Literal) -> DateLiteral | TodayLiteral:
        if not isinstance(day, DateLiteral | TodayLiteral):
            self._unclear()
        return day

    def _known_campaign(self) -> bool:
        return any(fold(self._text_from(self._at, count)) in self._names.campaigns for count in range(1, 8))

    def _event(self, ahead: int) -> EventName | None:
        word = self._word(ahead)
        # A field may be called so, and is asked about like any other then.
        return None if word in self._fields else _EVENT_WORDS.get(word)

    def _name(self, known: Mapping[str, str]) -> str:
        piece = self._here()
        if piece is None:
            self._unclear()
        if piece.kind == "text":
            self._at += 1
            return self._known(piece.text, known)
        # Words without quotes, as many as make a name that is there; else all up to the next joint.
        for count in range(8, 0, -1):
            text = self._text_from(self._at, count)
            if fold(text) in known:
                self._at += count
                return known[fold(text)]
        count = self._until_joint()
        text = self._text_from(self._at, count)
        self._at += count
        return self._known(text, known)

    def _known(self, name: str, known: Mapping[str, str]) -> str:
        if fold(name) in known:
            return known[fold(name)]
        found = nearest(name, known.values())
        if found is None:
            self._unclear()
        return found

    # ------------------------------------------------------------------ conditions

    def _condition(self) -> Node:
        quantifier = self._word()
        if quantifier in ("any", "every", "some", "all") and self._here(1) is not None:
            return self._items("every" if quantifier in ("every", "all") else "any")
        counted = False
        if quantifier == "count":
            counted = True
            self._at += 1
            bracket = self._word() == "("
            self._at += bracket
        field = self._field_here()
        if field is None:
            self._unclear()
        if counted and bracket and self._word() == ")":
            self._at += 1
        return self._compare(field, counted=counted)

    def _items(self, quantifier: Tag["any", "every"]) -> Node:
        self._at += 1
        field = self._field_here()
        if field is None or field.type is not FieldType.LIST:
            self._unclear()
        for filler in ("with", "where", "whose", "has", "having"):
            if self._word() == filler:
                self._at += 1
        outer, self._fields = self._fields, {part.key: part for part in field.parts}
        try:
            child = self._one()
        finally:
            self._fields = outer
        return Items(field=field.key, quantifier=quantifier, child=child)

    def _compare(self, field: Field, *, counted: bool) -> Node:
        def condition(operator: str, *values: Literal) -> Condition:
            return Condition(field=field.key, operator=operator, values=values, counted=counted)

        if not counted and self._ends_after(habits.BLANK):
            return condition("blank")
        if not counted and self._ends_after(habits.NOT_BLANK):
            return condition("not_blank")
        if counted or field.type in (FieldType.NUMBER, FieldType.MONEY):
            return self._amount(field, condition, counted=counted)
        match field.type:
            case FieldType.YES_NO:
                return self._yes_no(condition)
            case FieldType.LIST:
                counting = Field(key=field.key, label=field.label, type=FieldType.NUMBER)
                return self._amount(
                    counting,
                    lambda operator, *values: Condition(
                        field=field.key, operator=operator, values=values, counted=True
                    ),
                    counted=True,
                )
            case FieldType.DATE | FieldType.DATE_TIME:
                return self._day_compared(field, condition)
        return self._text_compared(field, condition)

    def _ends_after(self, phrases: Iterable[str]) -> bool:
        """Does one of the phrases stand here, with nothing after it that it could be about? Stepped over if so."""
        mark = self._at
        if self._take(phrases) and self._until_joint() == 0:
            return True
        self._at = mark
        return False

    def _operator(self, table: Mapping[str, Sequence[str]]) -> str:
        by_phrase = {phrase: key for key, phrases in table.items() for phrase in phrases}
        phrase = self._take(by_phrase)
        if phrase is None:
            self._unclear()
        return by_phrase[phrase]

    def _text_compared(self, field: Field, condition: _Make) -> Node:
        operator = self._operator({**habits.EQUALITY, **habits.TEXTS})
        denied = operator.startswith("not ")
        operator = operator.removeprefix("not ")
        values = self._values(field, choices=operator in habits.EQUALITY)
        self._not_either(operator)
        operator = _several(operator, values)
        node = condition(operator, *values)
        return Not(child=node) if denied else node

    def _yes_no(self, condition: _Make) -> Node:
        yes = condition("yes")
        said = condition("not_blank")
        denied = self._take(("is not", "isn't", "!=", "<>", "≠")) is not None
        if not denied:
            self._take(("is", "=", "==", "equals", ":"))
        piece = self._here()
        word = piece.text.lower() if piece and piece.kind == "text" else self._word()
        if word in habits.YES:
            self._at += 1
            return Not(child=yes) if denied else yes
        if word in habits.NO:
            self._at += 1
            # Who said no is not who said nothing.
            return yes if denied else All(children=(Not(child=yes), said))
        if denied or self._until_joint():
            self._unclear()
        return yes

    def _amount(self, field: Field, condition: _Make, *, counted: bool) -> Node:
        operator = self._operator({**habits.EQUALITY, **habits.AMOUNTS})
        if operator == "between":
            low = self._number(field)
            if not self._take(("and", "-", "to")):
                self._unclear()
            return condition("between", low, self._number(field))
        values = tuple(self._values(field))
        self._not_either(operator)
        return condition(_several(operator, values), *values)

    def _day_compared(self, field: Field, condition: _Make) -> Node:
        mark = self._at
        for phrases, operator in ((habits.WITHIN_LAST, "within_last"), (habits.WITHIN_NEXT, "within_next")):
            if self._take(phrases):
                if self._word() not in ("year", "month", "week") or self._word(-1) not in ("last", "next"):
                    return condition(operator, self._period())
                # “last week” is a week of the calendar, which is not seven days.
                self._unclear()
            self._at = mark
        said = self._operator({**habits.EQUALITY, **habits.DATES})
        if said == "before" and self._all[self._at - 1].word == "than" and self._all[self._at - 2].word == "older":
            period = self._period()
            return condition("before", TodayLiteral(count=-period.count, unit=period.unit))
        if said == "between":
            first = self._day(field)
            if not self._take(("and", "-", "to", "until")):
                self._unclear()
            return condition("between", first, self._day(field))
        if said in ("from", "until"):
            day = self._day(field)
            return condition("after" if said == "from" else "before", _shifted(day, -1 if said == "from" else 1))
        values = tuple(self._values(field))
        self._not_either(said)
        return condition(_several(said, values), *values)

    def _not_either(self, operator: str) -> None:
        """`is not "A" or "B"` says two things: neither of them, or all that is not one of them."""
        if operator == "is_not" and self._or_taken:
            self._unclear()


def _several(operator: str, values: Sequence[Literal]) -> str:
    """The operator that takes so many values."""
    if len(values) > 1:
        found = {"is": "in", "in": "in", "is_not": "not_in", "not_in": "not_in"}.get(operator)
        if found is None:
            raise Unclear
        return found
    return operator


def _shifted(day: Literal, days: int) -> Literal:
    match day:
        case DateLiteral(day=fixed):
            return DateLiteral(day=fixed + timedelta(days=days))
        case TodayLiteral(count=count, unit="days"):
            return TodayLiteral(count=count + days, unit="days")
        case TodayLiteral(count=0):
            return TodayLiteral(count=days, unit="days")
    raise Unclear
