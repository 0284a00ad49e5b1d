"""Tokens to tree, by recursive descent; one token decides each step, so that time is linear in the text.

criteria  = "everyone" | or
or        = and { "or" and }
and       = unary { "and" unary }
unary     = "not" unary | "(" or ")" | condition
condition = field [ operator operands ] | "count" "(" field ")" operator operands
          | ( "any" | "every" ) field "(" or ")" | about
about     = "subscribed" "to" TEXT [ "since" day | "as" "of" day ] | "imported" "from" TEXT | "in" "audience" TEXT | "tagged" TEXT
          | "chosen" "by" "sql" TEXT
          | [ "never" ] event [ "campaign" TEXT ] [ "within" "last" period ]
event     = "received" | "opened" | "clicked" | "replied" | "bounced"
"""

from typing import Literal as Tag

from uvarovite.core.expressions.literals import LiteralParser
from uvarovite.core.expressions.operators import OPERATORS, Operands, Operator
from uvarovite.core.expressions.subjects import EVENTS, SUBJECTS, NameKind, Subject
from uvarovite.core.expressions.tree import (
    About,
    All,
    AnyOf,
    ChosenBySql,
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
from uvarovite.core.language import LanguageError, Lexer, Problem, Span, Token, TokenKind, nearest

# Longer criteria are not written by people; the bound keeps every keystroke quick.
LONGEST_CRITERIA = 10_000
DEEPEST = 40

# The longest words first, so that `is not blank` is not taken for `is`.
_BY_WORDS = sorted(
    ((row.words.split(), row) for row in OPERATORS.values() if row.words), key=lambda pair: -len(pair[0])
)
_NOT_FIELDS = frozenset(word for words, _ in _BY_WORDS for word in words) | {"and", "or", "everyone"}
# The words that tell what else is asked about; events are known by their own.
_SUBJECTS = [(row.words.split()[: row.tells], row) for row in SUBJECTS.values() if row.words]
# What people write from habit in a message's conditions, and what it is called here; core.expressions.meant knows more.
_HABITS = {"=": "is", "equals": "is", "like": "contains", "has": "contains", "includes": "contains"}


def parse_criteria(source: str) -> Node:
    """The tree of a text. Raises LanguageError with the first fault."""
    if len(source) > LONGEST_CRITERIA:
        raise LanguageError(
            Problem(
                code="too_long",
                span=Span(start=LONGEST_CRITERIA, end=len(source)),
                message=f"Criteria have at most {LONGEST_CRITERIA:,} characters.",
            )
        )
    if not source.strip():
        raise LanguageError(
            Problem(
                code="empty",
                span=Span(start=0, end=len(source)),
                message="There is no condition yet. Write one, or “everyone”.",
            )
        )
    parser = ExpressionParser(Lexer(source))
    if parser.token.text == "everyone" and parser.token.kind is TokenKind.WORD:
        parser.advance()
        node: Node = All(children=())
    else:
        node = parser.expression()
    parser.expect_end()
    return node


class ExpressionParser(LiteralParser):
    """Reads one expression from a lexer's tokens; also used for the conditions inside an Inlay.

    What it had read when it stopped helps to complete a text: the condition that was begun last (`field`, `operator`,
    and the lists in whose brackets it stands), the kind of thing that was to be named, and the last leaf that was whole.
    """

    def __init__(self, lexer: Lexer) -> None:
        super().__init__(lexer)
        self._depth = 0
        self.field: str | None = None
        self.operator: Operator | None = None
        self.lists: list[str] = []
        self.named: NameKind | None = None
        self.leaf: Node | None = None

    def expression(self) -> Node:
        """An expression up to the first token that cannot belong to it."""
        self._depth += 1
        if self._depth > DEEPEST:
            self.fail("too_deep", f"Conditions can stand in each other at most {DEEPEST} deep.")
        parts = [self._and()]
        while self._is("or"):
            self.advance()
            parts.append(self._and())
        self._depth -= 1
        return parts[0] if len(parts) == 1 else AnyOf(children=tuple(parts))

    def _and(self) -> Node:
        parts = [self._unary()]
        while self._is("and"):
            self.advance()
            parts.append(self._unary())
        return parts[0] if len(parts) == 1 else All(children=tuple(parts))

    def _unary(self) -> Node:
        denied = 0
        while self._is("not"):
            self.advance()
            denied += 1
            if denied > DEEPEST:
                self.fail("too_deep", f"“not” can be repeated at most {DEEPEST} times.")
        node: Node
        if self._is("("):
            opening = self.advance()
            node = self.expression()
            self._close(opening)
        else:
            node = self.leaf = self._about() or self._condition()
        for _ in range(denied):
            node = Not(child=node)
        return node

    def _about(self) -> Node | None:
        """What begins with a word of its own; None where a field begins."""
        first = self.token
        if first.kind is not TokenKind.WORD:
            return None
        following = self._tokens[min(self._at + 1, len(self._tokens) - 1)]
        two = [first.text, following.text if following.kind is TokenKind.WORD else ""]
        for words, row in _SUBJECTS:
            if two[: len(words)] == words:
                return self._subject(row)
        match first.text:
            case "any" | "every" as quantifier:
                return self._items(quantifier)
            case "count" if following.text == "(":
                return self._count()
            case "never":
                self.advance()
                if self.token.text not in EVENTS:
                    self.fail("never", f"Say what never happened: never {', never '.join(EVENTS)}.")
                return self._history(first, never=True)
            case event if event in EVENTS:
                return self._history(first, never=False)
        return None

    def _subject(self, row: Subject) -> About:
        """One that begins with its own words; what can follow the name is read by kind."""
        first = self.advance()
        for word in row.words.split()[1:]:
            self._word(word, row.words)
        if row.names is None:
            return ChosenBySql(sql=self._select(row.example), span=self._since(first))
        name = self._name(row.names, row.example)
        tail = self._when_subscribed() if row.key == "subscribed" else {}
        return row.make(**{row.attribute: name}, **tail, span=self._since(first))

    def _name(self, kind: NameKind, example: str) -> str:
        """A name between quotes, of something that is there."""
        token, self.named = self.token, kind
        if token.kind is not TokenKind.TEXT or not token.text.strip():
            self.fail("no_name", f"Say which {kind}, between quotes: {example}.")
        self.advance()
        return token.text

    def _select(self, example: str) -> str:
        token = self.token
        if token.kind is not TokenKind.TEXT or not token.text.strip():
            self.fail("no_sql", f"Write the SELECT between quotes: {example}.")
        self.advance()
        return token.text

    def _list_field(self) -> Token:
        name = self.token
        if name.kind is not TokenKind.WORD or name.text in _NOT_FIELDS:
            self.fail("no_field", "Say which list is meant, such as: any walk_bookings (places >= 2).")
        return self.advance()

    def _items(self, quantifier: Tag["any", "every"]) -> Items:
        first = self.advance()
        name = self._list_field()
        if not self._is("("):
            self.fail("list", f"Say in brackets what must be true of its records: {quantifier} {name.text} (…).")
        opening = self.advance()
        self.lists.append(name.text)
        child = self.expression()
        self._close(opening)
        self.lists.pop()
        return Items(field=name.text, quantifier=quantifier, child=child, span=self._since(first), field_span=name.span)

    def _count(self) -> Condition:
        first = self.advance()
        opening = self.advance()
        name = self._list_field()
        self._close(opening)
        self.field = None
        operator = self.operator = self._operator()
        if operator.key == "yes":
            self.fail("no_operator", f"A count is compared with a number: count({name.text}) > 0.")
        return Condition(
            field=name.text,
            operator=operator.key,
            values=self._operands(operator),
            counted=True,
            span=self._since(first),
            field_span=name.span,
        )

    def _close(self, opening: Token) -> None:
        if not self._is(")"):
            if self.token.kind is TokenKind.END:
                self.fail("open_bracket", "This ( is never closed. Add ) where it ends.", at=opening)
            self.fail(
                "unexpected",
                f"“{self.token.text}” does not belong here. Close the bracket with ), or join with “and” or “or”.",
            )
        self.advance()

    def _when_subscribed(self) -> dict[str, DateLiteral | TodayLiteral]:
        if self._is("since"):
            self.advance()
            return {"since": self._named_day("since")}
        if self._is("as"):
            self.advance()
            self._word("of", "as of")
            return {"as_of": self._named_day("as of")}
        return {}

    def _named_day(self, word: str) -> DateLiteral | TodayLiteral:
        token = self.token
        day = self._literal()
        if not isinstance(day, DateLiteral | TodayLiteral):
            self.fail("since", f"After “{word}” stands a day, such as 2026-05-31 or today - 30 days.", at=token)
        return day

    def _history(self, first: Token, *, never: bool) -> History:
        event = EVENTS[self.advance().text].key
        campaign: str | None = None
        within: PeriodLiteral | None = None
        if self._is("campaign"):
            self.advance()
            campaign = self._name(NameKind.CAMPAIGN, SUBJECTS["history"].example)
        if self._is("within"):
            self.advance()
            self._word("last", "within last")
            within = self._period()
        return History(event=event, campaign=campaign, within=within, never=never, span=self._since(first))

    def _condition(self) -> Condition:
        name = self.token
        if name.kind is not TokenKind.WORD or name.text in _NOT_FIELDS:
            if name.kind is TokenKind.END:
                self.fail("no_field", 'A condition is missing here, such as: town is "Skarn".')
            self.fail("no_field", f"“{name.text}” is not a field. A condition begins with one, such as town.")
        self.advance()
        self.field = name.text
        operator = self.operator = self._operator()
        values = self._operands(operator)
        return Condition(
            field=name.text,
            operator=operator.key,
            values=values,
            span=Span(start=name.span.start, end=self._tokens[self._at - 1].span.end),
            field_span=name.span,
        )

    def _operator(self) -> Operator:
        ahead = [token.text for token in self._tokens[self._at : self._at + 3]]
        quoted = [token.kind is TokenKind.TEXT for token in self._tokens[self._at : self._at + 3]]
        for words, row in _BY_WORDS:
            if ahead[: len(words)] == words and not any(quoted[: len(words)]):
                self._at += len(words)
                return row
        if self.token.text in _HABITS and self.token.kind is not TokenKind.TEXT:
            word = _HABITS[self.token.text]
            self.fail("wrong_operator", f"Write “{word}” instead of “{self.token.text}”.", suggestion=word)
        if self.token.text == "within":
            self.fail("within", "Write “within next 30 days” or “within last 2 months”.")
        if self.token.kind in (TokenKind.TEXT, TokenKind.NUMBER, TokenKind.DATE):
            self.fail("no_operator", f"Say how {self.field or 'it'} is compared: is, contains, starts with, >= …")
        if self.token.kind is TokenKind.WORD and self.token.text not in ("and", "or"):
            meant = nearest(self.token.text, (row.words for row in OPERATORS.values() if row.words))
            hint = f" Did you mean “{meant}”?" if meant else " There are is, contains, starts with, >= …"
            self.fail("unknown_operator", f"“{self.token.text}” is not a comparison.{hint}", suggestion=meant)
        return OPERATORS["yes"]

    def _operands(self, operator: Operator) -> tuple[Literal, ...]:
        match operator.operands:
            case Operands.NONE:
                return ()
            case Operands.ONE:
                return (self._literal(),)
            case Operands.TWO:
                low = self._literal()
                if not self._is("and"):
                    self.fail("between", "“between” takes two values: between 10 and 20.")
                self.advance()
                return (low, self._literal())
            case Operands.PERIOD:
                return (self._period(),)
            case Operands.LIST:
                return self._list(operator)

    def _list(self, operator: Operator) -> tuple[Literal, ...]:
        if not self._is("("):
            self.fail("list", f'Put the values in brackets: {operator.words} ("a", "b").')
        opening = self.advance()
        values = [self._literal()]
        while self._is(","):
            self.advance()
            values.append(self._literal())
        if not self._is(")"):
            if self.token.kind is TokenKind.END:
                self.fail("open_bracket", "This ( is never closed. Add ) after the last value.", at=opening)
            self.fail("unexpected", "Put commas between the values, and ) after the last.")
        self.advance()
        return tuple(values)
