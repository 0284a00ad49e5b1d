"""The criteria: one language for choosing people and for conditions in a message (docs/languages/criteria.md)."""

from uvarovite.core.expressions.check import check_criteria
from uvarovite.core.expressions.complete import Completion, Option, complete_criteria, value_options
from uvarovite.core.expressions.meant import meant_criteria
from uvarovite.core.expressions.names import NO_NAMES, Named, NamedAudience, Names, audiences_in, fields_in
from uvarovite.core.expressions.near import near_misses
from uvarovite.core.expressions.operators import OPERATORS, Clock, Operator, day_of, period_ends
from uvarovite.core.expressions.parse import ExpressionParser, parse_criteria
from uvarovite.core.expressions.printing import print_criteria
from uvarovite.core.expressions.sql import Binder, SqlFragment
from uvarovite.core.expressions.subjects import EVENTS, NAME_KINDS, SUBJECTS, NameKind, renamed
from uvarovite.core.expressions.to_python import Predicate, compile_criteria
from uvarovite.core.expressions.to_sql import AboutSql, TableSql, criteria_to_sql
from uvarovite.core.expressions.tree import (
    CRITERIA_FORM,
    About,
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
)

__all__ = [
    "CRITERIA_FORM",
    "EVENTS",
    "NAME_KINDS",
    "NO_NAMES",
    "OPERATORS",
    "SUBJECTS",
    "About",
    "AboutSql",
    "All",
    "AnyOf",
    "Binder",
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
    "NameKind",
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
    "TableSql",
    "Tagged",
    "TextLiteral",
    "TodayLiteral",
    "audiences_in",
    "check_criteria",
    "compile_criteria",
    "complete_criteria",
    "criteria_to_sql",
    "day_of",
    "fields_in",
    "meant_criteria",
    "near_misses",
    "parse_criteria",
    "period_ends",
    "print_criteria",
    "renamed",
    "value_options",
]
