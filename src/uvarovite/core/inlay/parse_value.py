"""What stands in an insert to a tree: a field, a calculation with the usual precedence, a function of fields.

value   = product { ("+" | "-") product }
product = operand { ("*" | "/") operand }
operand = NUMBER [ currency | "days" | "weeks" | "months" ] | TEXT | name | function "(" [ value { "," value } ] ")"
        | "(" value ")"
"""

from uvarovite.core.expressions.literals import LiteralParser
from uvarovite.core.expressions.tree import MoneyLiteral, NumberLiteral
from uvarovite.core.inlay.tree import Amount, Calculation, Call, Duration, Name, Quoted, ValueNode
from uvarovite.core.language import Span, Token, TokenKind

# Nobody calculates more in a letter; the bound keeps the tree shallow.
MOST_OPERANDS = 40
DEEPEST_BRACKETS = 8
_UNITS = frozenset({"day", "days", "week", "weeks", "month", "months"})


class ValueParser(LiteralParser):
    """Reads a value from a lexer's tokens."""

    _depth = 0
    _operands = 0

    def value(self) -> ValueNode:
        """Raises LanguageError with the first fault."""
        first = self.token
        node = self._product()
        while (sign := self._sign()) is not None:
            node = Calculation(sign=sign, left=node, right=self._product(), span=self._since(first))
        return node

    def peek(self) -> Token:
        """The token behind the next one."""
        return self._tokens[min(self._at + 1, len(self._tokens) - 1)]

    def _sign(self) -> str | None:
        """`+` or `-`; of `price -3` the minus was taken for the number's, and is given back."""
        token = self.token
        if token.kind is TokenKind.SYMBOL and token.text in "+-":
            return self.advance().text
        if token.kind is TokenKind.NUMBER and token.text.startswith("-"):
            span = Span(start=token.span.start + 1, end=token.span.end)
            self._tokens[self._at] = Token(kind=TokenKind.NUMBER, text=token.text[1:], span=span)
            return "-"
        return None

    def _product(self) -> ValueNode:
        first = self.token
        node = self._operand()
        while self.token.kind is TokenKind.SYMBOL and self.token.text in ("*", "/"):
            sign = self.advance().text
            node = Calculation(sign=sign, left=node, right=self._operand(), span=self._since(first))
        return node

    def _operand(self) -> ValueNode:
        token = self.token
        self._operands += 1
        if self._operands > MOST_OPERANDS:
            self.fail("too_long", f"At most {MOST_OPERANDS} values can be reckoned with in one place.")
        match token.kind:
            case TokenKind.NUMBER if self.peek().kind is TokenKind.WORD and self.peek().text in _UNITS:
                period = self._period()
                return Duration(period=period, span=period.span or token.span)
            case TokenKind.NUMBER:
                self.advance()
                literal = self._amount(token)
                if isinstance(literal, MoneyLiteral):
                    return Amount(number=literal.amount, currency=literal.currency, span=self._since(token))
                assert isinstance(literal, NumberLiteral)
                return Amount(number=literal.number, currency=None, span=token.span)
            case TokenKind.TEXT:
                self.advance()
                return Quoted(text=token.text, span=token.span)
            case TokenKind.WORD:
                self.advance()
                return self._call(token) if self._is("(") else Name(name=token.text, span=token.span)
            case TokenKind.SYMBOL if token.text == "(":
                return self._bracket()
            case _:
                self.fail("no_field", "Between @{ and } stands a field, such as @{first_name}.")

    def _bracket(self) -> ValueNode:
        self._deeper()
        self.advance()
        node = self.value()
        self._close()
        return node

    def _call(self, name: Token) -> ValueNode:
        self._deeper()
        self.advance()
        arguments: list[ValueNode] = []
        while not self._is(")"):
            if arguments:
                if not self._is(","):
                    self.fail("unexpected", "Here , or ) was expected.")
                self.advance()
            arguments.append(self.value())
        self._close()
        return Call(function=name.text, arguments=tuple(arguments), span=self._since(name), name_span=name.span)

    def _deeper(self) -> None:
        self._depth += 1
        if self._depth > DEEPEST_BRACKETS:
            self.fail("too_deep", f"Brackets can stand in each other at most {DEEPEST_BRACKETS} deep.")

    def _close(self) -> None:
        if not self._is(")"):
            self.fail("open_bracket", "This bracket is not closed: a ) is missing here.")
        self.advance()
        self._depth -= 1
