"""The criteria language: round trip, errors with their place, and no text that makes it stumble."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import CLOCK, FIELDS, trees
from uvarovite.core.contacts import Record
from uvarovite.core.expressions import (
    All,
    Node,
    check_criteria,
    compile_criteria,
    criteria_to_sql,
    node_from_json,
    node_to_json,
    parse_criteria,
    print_criteria,
)
from uvarovite.core.language import LanguageError, place_of

# (text, its canonical form)
READ = [
    ('membership in ("Fellow", "Patron")', None),
    ("renews_on within next 30 days and not volunteer", None),
    ('town starts with "Sk" or pledge >= 50 EUR', None),
    ("first_name is blank", None),
    ("pledge between 10.50 EUR and 20 EUR and visits_last_year not in (1, 2)", None),
    ('not (town is "a" or town is "b")', None),
    ("everyone", None),
    ('town is "say \\"hi\\" \\\\ bye"', None),
    ("renews_on within last 1 months", "renews_on within last 1 month"),
    ('(town is "a") and ((town is "b"))', 'town is "a" and town is "b"'),
    ('town is "a" and town is "b" or town is "c"', '(town is "a" and town is "b") or town is "c"'),
]


@pytest.mark.parametrize(("text", "canonical"), READ)
def test_a_text_reads_and_prints_in_one_way(text: str, canonical: str | None) -> None:
    node = parse_criteria(text)
    assert print_criteria(node) == (canonical or text)
    assert check_criteria(node, FIELDS) == []


@given(trees)
def test_every_tree_prints_to_a_text_that_reads_back_as_the_tree(tree: Node) -> None:
    assert check_criteria(tree, FIELDS) == []
    assert parse_criteria(print_criteria(tree)) == tree
    assert node_from_json(node_to_json(tree)) == tree


# (text, code, line, column, length, suggestion)
FAULTY = [
    ("", "empty", 1, 1, 1, None),
    ("town", "operator_type", 1, 1, 4, None),
    ("firstname is blank", "unknown_field", 1, 1, 9, "first_name"),
    ('town is "a" and\ntwon is "b"', "unknown_field", 2, 1, 4, "town"),
    ('town startswith "Sk"', "unknown_operator", 1, 6, 10, "starts with"),
    ('town = "Sk"', "wrong_operator", 1, 6, 1, "is"),
    ("town is Skarn", "no_value", 1, 9, 5, '"Skarn"'),
    ('town is "Skarn', "open_text", 1, 9, 6, None),
    ("town is “Skarn”", "wrong_quote", 1, 9, 1, '"'),
    ("pledge >= 50", "no_currency", 1, 11, 2, "50 EUR"),
    ("pledge >= 50 USD", "currency", 1, 11, 6, None),
    ('membership is "Fiend"', "no_such_choice", 1, 15, 7, '"Friend"'),
    ("renews_on after 2026-02-30", "no_such_day", 1, 17, 10, None),
    ("renews_on within 30 days", "within", 1, 11, 6, None),
    ("renews_on within next 30", "period", 1, 25, 1, None),
    ('town > "a"', "operator_type", 1, 1, 10, None),
    ("volunteer is 1", "operator_type", 1, 1, 14, None),
    ('(town is "a"', "open_bracket", 1, 1, 1, None),
    ('town is "a")', "unexpected", 1, 12, 1, "and"),
    ('town in "a"', "list", 1, 9, 3, None),
    ('and town is "a"', "no_field", 1, 1, 3, None),
    ("visits_last_year > 12abc", "bad_number", 1, 20, 5, None),
    ("visits_last_year > 99999999999999999", "too_large", 1, 20, 17, None),
    ("not " * 60 + "volunteer", "too_deep", 1, 165, 3, None),
    ("(" * 60 + "volunteer" + ")" * 60, "too_deep", 1, 41, 1, None),
]


@pytest.mark.parametrize(("text", "code", "line", "column", "length", "suggestion"), FAULTY)
def test_a_fault_has_its_place_and_what_would_do(
    text: str, code: str, line: int, column: int, length: int, suggestion: str | None
) -> None:
    try:
        problem = check_criteria(parse_criteria(text), FIELDS)[0]
    except LanguageError as fault:
        problem = fault.problem
    place = place_of(text, problem.span)
    assert (problem.code, place.line, place.column, place.length) == (code, line, column, length)
    assert problem.suggestion == suggestion
    assert problem.message.endswith((".", "?", "…", '").', "2 months”."))


@given(st.text(max_size=120) | st.text(alphabet='town is not in("a",) and or 12 EUR within next days', max_size=120))
@example("a" * 20_000)
@example("(" * 5_000)
@example("not " * 2_000)
@example("town in (" + '"a",' * 2_000)
def test_any_text_is_read_or_refused_and_nothing_else(text: str) -> None:
    try:
        node = parse_criteria(text)
    except LanguageError as fault:
        place = place_of(text, fault.problem.span)
        node = None
    if node is None:
        assert 1 <= place.line <= text.count("\n") + 1
        return
    check_criteria(node, FIELDS)
    assert parse_criteria(print_criteria(node)) == node


BLANK: Record = {}

TWO_VALUED = [
    ('town is "a"', False),
    ('town is not "a"', False),
    ('not town is "a"', True),
    ('town not in ("a")', False),
    ("pledge < 5 EUR", False),
    ("renews_on within last 10 days", False),
    ("volunteer", False),
    ("not volunteer", True),
    ("town is blank", True),
    ("town is not blank", False),
    ("everyone", True),
]


@pytest.mark.parametrize(("text", "expected"), TWO_VALUED)
def test_a_comparison_with_a_blank_is_false_and_not_turns_it(text: str, expected: bool) -> None:
    assert compile_criteria(parse_criteria(text), FIELDS)(BLANK, CLOCK) is expected


def test_what_an_author_wrote_reaches_sql_as_parameters_only() -> None:
    hostile = "x'; DROP TABLE contact; --"
    fragment = criteria_to_sql(parse_criteria(f'town is "{hostile}"'), FIELDS, CLOCK)
    assert "DROP" not in fragment.text
    assert hostile.lower() in fragment.parameters.values()


def test_stored_criteria_of_a_later_version_are_refused() -> None:
    stored = node_to_json(All(children=()))
    with pytest.raises(ValueError, match="version 99"):
        node_from_json({**stored, "version": 99})
