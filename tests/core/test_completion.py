"""What is offered at the caret: what the language has there, and never a fault of its own."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.fields import FIELDS, NAMES, whole_trees
from uvarovite.core.expressions import Node, complete_criteria, parse_criteria, print_criteria
from uvarovite.core.language import LanguageError, Problem

# (text with the caret at |, options that must be there, some that must not)
OFFERED = [
    ("|", ["address"], ["and", "is"]),
    ("to|", ["town"], ["first_name"]),
    ("town |", ["is", "is not"], ["<", "within next", "and"]),
    ("town st|", ["starts with"], ["ends with"]),
    ("town starts w|", ["starts with"], ["is"]),
    ("pledge |", ["is"], ["contains"]),
    ("volunteer |", ["is blank"], ["is"]),
    ("membership in (|", ['"Friend"', '"Fellow"', '"Patron"'], []),
    ('membership is "f|', ['"Friend"', '"Fellow"'], ['"Patron"']),
    ('membership in ("Friend"|', [",", ")"], ["and"]),
    ("renews_on within |", ["within next", "within last"], []),
    ("renews_on within next 30 |", ["days", "weeks", "months"], []),
    ("renews_on before |", ["today"], ["and"]),
    ("renews_on between today |", ["and"], ["or"]),
    ("any |", ["adopted_specimens"], ["town"]),
    ("any adopted_specimens (|", ["name"], ["town", "tagged", "any"]),
    ("any adopted_specimens (na|", ["name"], []),
    ('any adopted_specimens (name is "a" |', ["and", "or"], []),
    ("count(|", ["adopted_specimens"], ["town"]),
    ("count(adopted_specimens) |", ["is"], ["contains", "is blank"]),
    ("tagged |", ['"Lamp owner"'], []),
    ('tagged "l|', ['"Lamp owner"'], []),
    ("never |", ["received", "opened"], ["town"]),
    ("opened |", ["and", "or", "campaign", "within last"], []),
    ("in |", ["audience"], []),
    ('(town is "a" an|', ["and"], []),
    ('town is "Skarn" and mem|bership', ["membership"], []),
]


@pytest.mark.parametrize(("marked", "wanted", "never"), OFFERED, ids=[row[0] for row in OFFERED])
def test_what_can_stand_at_the_caret_is_offered(marked: str, wanted: list[str], never: list[str]) -> None:
    at = marked.index("|")
    text = marked.replace("|", "")
    found = complete_criteria(text, at, FIELDS, NAMES)
    offered = [option.text for option in found.options]
    assert set(wanted) <= set(offered)
    assert not set(never) & set(offered)


def test_a_word_is_replaced_as_a_whole_and_a_whole_one_is_left_alone() -> None:
    text = 'mem is "Friend"'
    found = complete_criteria(text, 2, FIELDS, NAMES)
    assert (found.start, found.end) == (0, 3)
    assert complete_criteria("town", 4, FIELDS, NAMES).options == []
    inside = complete_criteria('membership is "Fri" and volunteer', 16, FIELDS, NAMES)
    assert (inside.start, inside.end) == (14, 19)


def test_the_values_of_a_field_help_but_not_for_a_part_of_the_same_name() -> None:
    assert complete_criteria('town is "S', 10, FIELDS, NAMES).values_of == "town"
    specimens = FIELDS["adopted_specimens"]
    part = replace(specimens, parts=(replace(FIELDS["town"]), *specimens.parts))
    text = 'any adopted_specimens (town is "S'
    assert complete_criteria(text, len(text), {**FIELDS, part.key: part}, NAMES).values_of is None


def test_a_messages_conditions_are_offered_the_record_alone() -> None:
    offered = {option.text for option in complete_criteria("", 0, FIELDS, None).options}
    assert "town" in offered
    assert not offered & {"tagged", "opened", "in audience", "subscribed to"}


@given(whole_trees, st.data())
def test_every_beginning_of_a_text_can_be_completed_and_no_option_is_a_fault_by_itself(
    tree: Node, data: st.DataObject
) -> None:
    text = print_criteria(tree)
    at = data.draw(st.integers(0, len(text)))
    found = complete_criteria(text, at, FIELDS, NAMES)
    assert 0 <= found.start <= at <= found.end <= len(text)
    for option in found.options[:6]:
        begun = text[: found.start] + option.text
        problem = fault_of(begun)
        # What may be wrong now is only that something is missing still, or that a bracket is open.
        assert (
            problem is None
            or problem.span.start >= len(begun.rstrip())
            or problem.code in ("open_bracket", "no_field", "word", "never")
        ), (begun, problem)


def fault_of(text: str) -> Problem | None:
    try:
        parse_criteria(text)
    except LanguageError as fault:
        return fault.problem
    return None


@given(st.text(max_size=60), st.integers(0, 60))
def test_any_text_can_be_asked_about(text: str, at: int) -> None:
    found = complete_criteria(text, min(at, len(text)), FIELDS, NAMES)
    assert found.start <= found.end
