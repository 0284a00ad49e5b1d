"""The criteria: one language for choosing people and for conditions in a message (docs/languages/criteria.md)."""

from uvarovite.core.expressions.check import check_criteria
from uvarovite.core.expressions.operators import OPERATORS, Clock, Operator
from uvarovite.core.expressions.parse import ExpressionParser, parse_criteria
from uvarovite.core.expressions.printing import print_criteria
from uvarovite.core.expressions.to_python import Predicate, compile_criteria
from uvarovite.core.expressions.to_sql import SqlFragment, criteria_to_sql
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    Condition,
    DateLiteral,
    Literal,
    MoneyLiteral,
    Node,
    Not,
    NumberLiteral,
    PeriodLiteral,
    TextLiteral,
    node_from_json,
    node_to_json,
)

__all__ = [
    "OPERATORS",
    "All",
    "AnyOf",
    "Clock",
    "Condition",
    "DateLiteral",
    "ExpressionParser",
    "Literal",
    "MoneyLiteral",
    "Node",
    "Not",
    "NumberLiteral",
    "Operator",
    "PeriodLiteral",
    "Predicate",
    "SqlFragment",
    "TextLiteral",
    "check_criteria",
    "compile_criteria",
    "criteria_to_sql",
    "node_from_json",
    "node_to_json",
    "parse_criteria",
    "print_criteria",
]
