"""Stepping through tokens, and the values that stand in criteria: texts, numbers, money, days and time spans."""

import re
from datetime import date
from decimal import Decimal
from typing import Literal as Tag
from typing import NoReturn

from uvarovite.core.expressions.operators import LARGEST_OPERAND, LONGEST_PERIOD
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
from uvarovite.core.language import LanguageError, Lexer, Problem, Span, Token, TokenKind


class LiteralParser:
    """Reads values from a lexer's tokens, each deciding one step."""

    def __init__(self, lexer: Lexer) -> None:
        self._tokens = lexer.tokens
        self._at = 0

    @property
    def token(self) -> Token:
        return self._tokens[self._at]

    def advance(self) -> Token:
        token = self.token
        self._at += token.kind is not TokenKind.END
        return token

    def expect_end(self) -> None:
        """Raises LanguageError unless every token was read."""
        if self.token.kind is not TokenKind.END:
            if self.token.text == ")" and self.token.kind is TokenKind.SYMBOL:
                self.fail("unexpected", "There is one ) too many.")
            self.fail(
                "unexpected", f"“{self.token.text}” does not belong here. Join two conditions with “and” or “or”."
            )

    def fail(self, code: str, message: str, *, at: Token | None = None, suggestion: str | None = None) -> NoReturn:
        token = at or self.token
        raise LanguageError(Problem(code=code, span=token.span, message=message, suggestion=suggestion))

    def _is(self, text: str) -> bool:
        return self.token.text == text and self.token.kind in (TokenKind.WORD, TokenKind.SYMBOL)

    def _since(self, first: Token) -> Span:
        """From a token up to what was read last."""
        return Span(start=first.span.start, end=self._tokens[self._at - 1].span.end)

    def _word(self, word: str, whole: str) -> None:
        if not self._is(word):
            self.fail("word", f"Write “{whole} …”.")
        self.advance()

    def _literal(self) -> Literal:
        token = self.token
        match token.kind:
            case TokenKind.TEXT:
                if any(ord(sign) < 32 and sign not in "\n\t" for sign in token.text):
                    self.fail("control_character", "This text holds a control character.")
                self.advance()
                return TextLiteral(text=token.text, span=token.span)
            case TokenKind.DATE:
                self.advance()
                return DateLiteral(day=self._day(token), span=token.span)
            case TokenKind.NUMBER:
                self.advance()
                return self._amount(token)
            case TokenKind.WORD if token.text == "today":
                return self._today()
            case TokenKind.WORD if token.text == "now":
                self.advance()
                return NowLiteral(span=token.span)
            case TokenKind.END:
                self.fail("no_value", "A value is missing here.")
            case _:
                self.fail(
                    "no_value", f'A value is missing before “{token.text}”. A text stands between quotes: "Skarn".'
                )

    def _today(self) -> TodayLiteral:
        first = self.advance()
        sign = 1
        if self._is("+") or self._is("-"):
            sign = -1 if self.advance().text == "-" else 1
        elif not (self.token.kind is TokenKind.NUMBER and self.token.text.startswith("-")):
            return TodayLiteral(span=first.span)
        else:
            # `today -3 days`, where the sign was taken for the number's.
            sign = -1
        period = self._period(signed=True)
        # So that each day has one form.
        unit = period.unit if period.count else "days"
        return TodayLiteral(count=sign * period.count, unit=unit, span=self._since(first))

    def _day(self, token: Token) -> date:
        try:
            return date.fromisoformat(token.text)
        except ValueError:
            self.fail("no_such_day", f"There is no day {token.text}.", at=token)

    def _amount(self, token: Token) -> Literal:
        number = Decimal(token.text)
        if abs(number) >= LARGEST_OPERAND:
            self.fail("too_large", "This number is larger than any field can hold.", at=token)
        unit = self.token
        if unit.kind is TokenKind.WORD and re.fullmatch(r"[A-Z]{3}", unit.text):
            self.advance()
            span = Span(start=token.span.start, end=unit.span.end)
            return MoneyLiteral(amount=number, currency=unit.text, span=span)
        return NumberLiteral(number=number, span=token.span)

    def _period(self, *, signed: bool = False) -> PeriodLiteral:
        count, unit = self.advance(), self.token
        digits = count.text.removeprefix("-") if signed else count.text
        words: dict[str, Tag["days", "weeks", "months"]] = {
            "day": "days", "days": "days", "week": "weeks", "weeks": "weeks", "month": "months", "months": "months",
        }  # fmt: skip
        if count.kind is not TokenKind.NUMBER or not digits.isdigit():
            self.fail("period", "Write a whole number of days, weeks or months, such as 30 days.", at=count)
        if unit.text not in words or unit.kind is not TokenKind.WORD:
            self.fail("period", "Say of what: days, weeks or months.")
        self.advance()
        period = PeriodLiteral(
            count=int(digits[:9]),
            unit=words[unit.text],
            span=Span(start=count.span.start, end=unit.span.end),
        )
        if len(digits) > 9 or period.count > LONGEST_PERIOD[period.unit]:
            self.fail("period", f"At most {LONGEST_PERIOD[period.unit]:,} {period.unit}.", at=count)
        return period
