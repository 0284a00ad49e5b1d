"""The criteria language: round trip, errors with their place, and no text that makes it stumble."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import CLOCK, FIELDS, NAMES, whole_trees
from uvarovite.core.contacts import Record
from uvarovite.core.expressions import (
    CRITERIA_FORM,
    All,
    History,
    NamedAudience,
    NameKind,
    Names,
    Node,
    PeriodLiteral,
    check_criteria,
    compile_criteria,
    fields_in,
    parse_criteria,
    print_criteria,
    renamed,
)
from uvarovite.core.language import LanguageError, Span, place_of
from uvarovite.core.values import UnknownForm

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
    ('any adopted_specimens (name starts with "Flu" and since after 2020-05-01)', None),
    ("not every adopted_specimens (kept or price >= 5 EUR)", None),
    ("count(adopted_specimens) > 0", None),
    ("renews_on between today - 3 days and today + 2 weeks", None),
    ("renews_on before today -1 months", "renews_on before today - 1 month"),
    ("renews_on is today + 0 weeks", "renews_on is today"),
    ("last_seen after now", None),
    ('subscribed to "Field walks" since today - 1 month', None),
    ("never opened within last 60 days", None),
    ('clicked campaign "Autumn" within last 2 weeks and received', None),
    ('imported from "people.csv" or not tagged "lamp owner"', None),
    ('in audience "Walkers \\"near\\" the valley"', None),
]


@pytest.mark.parametrize(("text", "canonical"), READ)
def test_a_text_reads_and_prints_in_one_way(text: str, canonical: str | None) -> None:
    node = parse_criteria(text)
    assert print_criteria(node) == (canonical or text)
    assert check_criteria(node, FIELDS, NAMES) == []


@given(whole_trees)
def test_every_tree_prints_to_a_text_that_reads_back_as_the_tree(tree: Node) -> None:
    assert check_criteria(tree, FIELDS, NAMES) == []
    assert parse_criteria(print_criteria(tree)) == tree
    assert CRITERIA_FORM.read(CRITERIA_FORM.write(tree)) == tree


# (text, code, line, column, length, suggestion)
FAULTY = [
    ("", "empty", 1, 1, 1, None),
    ("town", "operator_type", 1, 1, 4, None),
    ("firstname is blank", "unknown_field", 1, 1, 9, "first_name"),
    ('town is "a" and\ntwon is "b"', "unknown_field", 2, 1, 4, "town"),
    ('town startswith "Sk"', "unknown_operator", 1, 6, 10, "starts with"),
    ('town = "Sk"', "wrong_operator", 1, 6, 1, "is"),
    ("town is Skarn", "no_value", 1, 9, 5, None),
    ('town is "Skarn', "open_text", 1, 9, 6, None),
    ("town is “Skarn”", "wrong_quote", 1, 9, 1, None),
    ("pledge >= 50", "no_currency", 1, 11, 2, "50 EUR"),
    ("pledge >= 50 USD", "currency", 1, 11, 6, None),
    ('membership is "Fiend"', "no_such_choice", 1, 15, 7, '"Friend"'),
    ("renews_on after 2026-02-30", "no_such_day", 1, 17, 10, None),
    ("renews_on within 30 days", "within", 1, 11, 6, None),
    ("renews_on within next 30", "period", 1, 25, 1, None),
    ('town > "a"', "operator_type", 1, 1, 10, None),
    ("volunteer is 1", "operator_type", 1, 1, 14, None),
    ('(town is "a"', "open_bracket", 1, 1, 1, None),
    ('town is "a")', "unexpected", 1, 12, 1, None),
    ('town in "a"', "list", 1, 9, 3, None),
    ('and town is "a"', "no_field", 1, 1, 3, None),
    ("visits_last_year > 12abc", "bad_number", 1, 20, 5, None),
    ("visits_last_year > 99999999999999999", "too_large", 1, 20, 17, None),
    ("adopted_specimens > 1", "operator_type", 1, 1, 21, None),
    ("count(town) > 1", "no_list", 1, 1, 15, None),
    ("count(adopted_specimens) is blank", "operator_type", 1, 1, 33, None),
    ("count(adopted_specimens)", "no_operator", 1, 25, 1, None),
    ('any town (name is "a")', "no_list", 1, 5, 4, None),
    ('any adopted_specimen (name is "a")', "unknown_field", 1, 5, 16, "adopted_specimens"),
    ("any adopted_specimens (nam is blank)", "unknown_field", 1, 24, 3, "name"),
    ('any adopted_specimens (tagged "lamp owner")', "only_criteria", 1, 24, 19, None),
    ("any adopted_specimens name", "list", 1, 23, 4, None),
    ("renews_on before now", "now", 1, 18, 3, "today"),
    ("last_seen is now", "now", 1, 14, 3, None),
    ("renews_on is today + 99999 days", "period", 1, 22, 5, None),
    ("town is today", "value_type", 1, 9, 5, None),
    ('tagged "lamp ower"', "no_such_name", 1, 1, 18, None),
    ("tagged lamp", "no_name", 1, 8, 4, None),
    ('subscribed "Field walks"', "word", 1, 12, 13, None),
    ('subscribed to "Field walks" since 3', "since", 1, 35, 1, None),
    ('subscribed to "Walks"', "no_such_name", 1, 1, 21, None),
    ('never town is "a"', "never", 1, 7, 4, None),
    ('opened campaign "Spring"', "no_such_name", 1, 1, 24, None),
    ("opened within next 3 days", "word", 1, 15, 4, None),
    ('in audience "Nobody"', "no_such_name", 1, 1, 20, None),
    ("not " * 60 + "volunteer", "too_deep", 1, 165, 3, None),
    ('town is ""', "no_value", 1, 9, 2, None),
    ('town contains " "', "no_value", 1, 15, 3, None),
    ('membership in ("Patron", "")', "no_value", 1, 26, 2, None),
    ("(" * 60 + "volunteer" + ")" * 60, "too_deep", 1, 41, 1, None),
]


@pytest.mark.parametrize(("text", "code", "line", "column", "length", "suggestion"), FAULTY)
def test_a_fault_has_its_place_and_what_would_do(
    text: str, code: str, line: int, column: int, length: int, suggestion: str | None
) -> None:
    try:
        problem = check_criteria(parse_criteria(text), FIELDS, NAMES)[0]
    except LanguageError as fault:
        problem = fault.problem
    place = place_of(text, problem.span)
    assert (problem.code, place.line, place.column, place.length) == (code, line, column, length)
    assert problem.suggestion == suggestion
    assert problem.message.endswith((".", "?", "…", '").', "2 months”."))


WORDS = [
    *["town", "is", "not", "in", "(", ")", ",", "and", "or", "any", "every", "count", "today", "+", "-", "3", "now", "opened", "never", "received", "campaign", "within", "last"],
    *["subscribed", "to", "since", "imported", "from", "audience", "tagged", "between", "before", "on", ">=", "days", "weeks", "adopted_specimens", "name"],
    '"a"', "2026-05-31", "12 EUR", "-3", "everyone", '"', "count(", "\u0301",
]  # fmt: skip


@given(st.text(max_size=120) | st.lists(st.sampled_from(WORDS), max_size=24).map(" ".join))
@example("a" * 20_000)
@example("(" * 5_000)
@example("not " * 2_000)
@example("town in (" + '"a",' * 2_000)
@example("any adopted_specimens (" * 200)
def test_any_text_is_read_or_refused_and_nothing_else(text: str) -> None:
    try:
        node = parse_criteria(text)
    except LanguageError as fault:
        place = place_of(text, fault.problem.span)
        node = None
    if node is None:
        assert 1 <= place.line <= text.count("\n") + 1
        return
    check_criteria(node, FIELDS, NAMES)
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
    ("any adopted_specimens (name is blank)", False),
    ("every adopted_specimens (name is blank)", False),
    ("count(adopted_specimens) is 0", True),
    ("last_seen before now", False),
    ("renews_on before today", False),
]


def test_a_list_without_records_holds_nothing_for_any_or_every_one() -> None:
    for quantifier in ("any", "every"):
        asked = compile_criteria(parse_criteria(f"{quantifier} adopted_specimens (name is blank)"), FIELDS)
        assert asked({"adopted_specimens": ()}, CLOCK) is False
        assert asked({"adopted_specimens": ({},)}, CLOCK) is True


@pytest.mark.parametrize(("text", "expected"), TWO_VALUED)
def test_a_comparison_with_a_blank_is_false_and_not_turns_it(text: str, expected: bool) -> None:
    assert compile_criteria(parse_criteria(text), FIELDS)(BLANK, CLOCK) is expected


def test_stored_criteria_of_a_later_version_are_refused() -> None:
    stored = CRITERIA_FORM.write(All(children=()))
    with pytest.raises(UnknownForm, match="version 99"):
        CRITERIA_FORM.read({**stored, "version": 99})


def test_what_asks_about_more_than_the_record_has_no_place_in_a_message() -> None:
    problems = check_criteria(parse_criteria('town is "a" and tagged "lamp owner"'), FIELDS)
    assert [problem.code for problem in problems] == ["only_criteria"]


def test_an_audience_in_itself_is_named_with_its_way() -> None:
    def audience(number: int, name: str, text: str) -> NamedAudience:
        return NamedAudience(id=number, name=name, node=parse_criteria(text))

    names = Names(
        audiences={
            "a": audience(1, "A", 'in audience "B"'),
            "b": audience(2, "B", 'volunteer or (not in audience "c")'),
            "c": audience(3, "C", "everyone"),
        },
        own="c",
    )
    (problem,) = check_criteria(parse_criteria('town is "a" or in audience "A"'), FIELDS, names)
    assert (problem.code, problem.span.start) == ("circle", 15)
    assert "“A” → “B” → “c”" in problem.message
    assert check_criteria(parse_criteria('in audience "C"'), FIELDS, names)[0].code == "circle"
    # For another audience the same words are fine.
    assert check_criteria(parse_criteria('in audience "A"'), FIELDS, Names(audiences=names.audiences)) == []


def test_what_is_renamed_is_renamed_wherever_it_is_named() -> None:
    node = parse_criteria(
        'not (in audience "OLD" or volunteer) and in audience "other" and subscribed to "old" and opened campaign "Old"'
    )

    def after(kind: NameKind) -> str:
        return print_criteria(renamed(node, kind, "Old", "New one"))

    assert after(NameKind.AUDIENCE).startswith('not (in audience "New one" or volunteer) and in audience "other"')
    assert after(NameKind.AUDIENCE).endswith('subscribed to "old" and opened campaign "Old"')
    assert after(NameKind.TOPIC).endswith('subscribed to "New one" and opened campaign "Old"')
    assert after(NameKind.CAMPAIGN).endswith('subscribed to "old" and opened campaign "New one"')


def test_the_fields_that_criteria_ask_about_are_told() -> None:
    text = 'count(walks) > 1 and not (any stones (name is "a") or town is blank) and tagged "b"'
    assert fields_in(parse_criteria(text)) == {"walks", "stones", "town"}


def test_an_audience_with_a_fault_of_its_own_is_said_to_have_one() -> None:
    broken = NamedAudience(id=1, name="Broken", node=parse_criteria("gone is blank"))
    (problem,) = check_criteria(parse_criteria('in audience "broken"'), FIELDS, Names(audiences={"broken": broken}))
    assert problem.code == "faulty_audience"
    assert "There is no field “gone”" in problem.message


def test_a_period_of_rows_that_is_too_long_has_a_place_without_a_text() -> None:
    rows = History(event="opened", within=PeriodLiteral(count=100_000, unit="days"))
    (problem,) = check_criteria(rows, FIELDS, NAMES)
    assert (problem.code, problem.span) == ("period", Span(start=0, end=0))
