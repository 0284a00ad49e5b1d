"""The criteria: one language for choosing people and for conditions in a message (docs/languages/criteria.md)."""

from uvarovite.core.expressions.about_sql import chosen_table
from uvarovite.core.expressions.check import check_criteria
from uvarovite.core.expressions.complete import Completion, Option, complete_criteria, value_options
from uvarovite.core.expressions.meant import meant_criteria
from uvarovite.core.expressions.names import Named, NamedAudience, Names, audiences_in, fields_in, renamed
from uvarovite.core.expressions.near import near_misses
from uvarovite.core.expressions.operators import OPERATORS, Clock, Operator
from uvarovite.core.expressions.parse import ExpressionParser, parse_criteria
from uvarovite.core.expressions.printing import print_criteria
from uvarovite.core.expressions.sql import SqlFragment
from uvarovite.core.expressions.to_python import Predicate, compile_criteria
from uvarovite.core.expressions.to_sql import criteria_to_sql
from uvarovite.core.expressions.tree import (
    All,
    AnyOf,
    ChosenBySql,
    Condition,
    DateLiteral,
    History,
    Imported,
    InAudience,
    Items,
    Literal,
    MoneyLiteral,
    Node,
    Not,
    NowLiteral,
    NumberLiteral,
    PeriodLiteral,
    Subscribed,
    Tagged,
    TextLiteral,
    TodayLiteral,
    node_from_json,
    node_to_json,
)

__all__ = [
    "OPERATORS",
    "All",
    "AnyOf",
    "ChosenBySql",
    "Clock",
    "Completion",
    "Condition",
    "DateLiteral",
    "ExpressionParser",
    "History",
    "Imported",
    "InAudience",
    "Items",
    "Literal",
    "MoneyLiteral",
    "Named",
    "NamedAudience",
    "Names",
    "Node",
    "Not",
    "NowLiteral",
    "NumberLiteral",
    "Operator",
    "Option",
    "PeriodLiteral",
    "Predicate",
    "SqlFragment",
    "Subscribed",
    "Tagged",
    "TextLiteral",
    "TodayLiteral",
    "audiences_in",
    "check_criteria",
    "chosen_table",
    "compile_criteria",
    "complete_criteria",
    "criteria_to_sql",
    "fields_in",
    "meant_criteria",
    "near_misses",
    "node_from_json",
    "node_to_json",
    "parse_criteria",
    "print_criteria",
    "renamed",
    "value_options",
]
