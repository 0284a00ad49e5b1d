"""Proofs: what differs between messages is found, and the fewest people show all of it."""

import itertools
import math
from datetime import date, timedelta
from decimal import Decimal

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.test_inlay import context
from tests.support.fields import FIELDS, records
from tests.support.records import NOBODY
from uvarovite.core.contacts import Record, Value
from uvarovite.core.messages import (
    Arm,
    ForEach,
    LetterMaker,
    MessageContent,
    Only,
    Paragraph,
    Table,
    TableColumn,
    check_message,
)
from uvarovite.core.messages.feature_words import FEATURE_WORDS, feature_words
from uvarovite.core.messages.features import Feature, FeatureKind, Features, features_of
from uvarovite.core.messages.proofs import choose_proofs, shapes_of
from uvarovite.core.values import Money

K = FeatureKind


def looked_at(text: str, *people: Record) -> list[set[tuple[str, str, str]]]:
    """For each person (kind, about, which) of what their message shows, of a message of one paragraph."""
    content = MessageContent(subject="Two walks", blocks=(Paragraph(text=text),))
    assert check_message(content, FIELDS) == []
    found = features_of(LetterMaker(content, FIELDS).letter_for, [(one, context()) for one in people])
    return [
        {(one.kind.value, one.about, one.which) for one, has in zip(found.features, row, strict=True) if has and one.kind is not K.LOCALE}
        for row in found.has
    ]  # fmt: skip


def person(**told: Value) -> Record:
    return {**NOBODY, **told}


def euros(amount: str) -> Money:
    return Money(amount=Decimal(amount), currency="EUR")


SEVERAL = ({"name": "Galena"}, {"name": "Fluorite"})
# (text, people, what each of them shows)
SHOWN = [
    ('@{town else "you"}', [person(town="Skarn"), person()], [set(), {("fallback", "town", "")}]),
    ("@{town}", [person(town="Skarn"), person()], [set(), {("blank", "town", "")}]),
    (
        "@{if volunteer}a@{elif town is \"Skarn\"}b@{end}",
        [person(volunteer=True), person(town="Skarn"), person()],
        [{("branch", "", "volunteer")}, {("branch", "", 'town is "Skarn"')}, {("branch", 'volunteer or town is "Skarn"', "")}],
    ),
    (
        "@{each s in adopted_specimens}x@{end}",
        [person(), person(adopted_specimens=SEVERAL[:1]), person(adopted_specimens=SEVERAL)],
        [{(kind, "adopted_specimens", "")} for kind in ("list_empty", "list_one", "list_many")],
    ),
    (
        "@{town}",
        [person(town="Ullapool"), person(town="Ay"), person(town="Skarn")],
        [{("longest", "town", "")}, {("shortest", "town", "")}, set()],
    ),
    (
        "@{pledge}",
        [person(pledge=euros("0")), person(pledge=euros("-3")), person(pledge=euros("9"))],
        [
            {("zero", "pledge", ""), ("shortest", "pledge", "")},
            {("negative", "pledge", ""), ("smallest", "pledge", ""), ("longest", "pledge", "")},
            {("largest", "pledge", ""), ("shortest", "pledge", "")},
        ],
    ),
    (
        "hello",
        [person(first_name=name) for name in ("Ada", "Zoë", "Ζωή", "דליה", "美咲")],
        [set(), *({("script", "", script)} for script in ("Latin with accents", "Greek", "Hebrew", "Chinese or Japanese"))],
    ),
    (
        "@{each s in adopted_specimens}@{s.name}@{end}",
        [person(adopted_specimens=SEVERAL), person(adopted_specimens=SEVERAL[:1])],
        [
            {("list_many", "adopted_specimens", ""), ("longest", "s.name", "")},
            {("list_one", "adopted_specimens", ""), ("shortest", "s.name", "")},
        ],
    ),
]  # fmt: skip


@pytest.mark.parametrize(("text", "people", "shown"), SHOWN)
def test_what_a_message_shows_of_each_person(
    text: str, people: list[Record], shown: list[set[tuple[str, str, str]]]
) -> None:
    assert looked_at(text, *people) == shown


def test_the_subject_and_blocks_in_blocks_count_once_and_say_where_they_stand() -> None:
    content = MessageContent(
        subject="For @{first_name}",
        blocks=(
            Only(arms=(Arm(criteria="volunteer", blocks=(Paragraph(text="@{town}"),)),)),
            ForEach(variable="s", listed="adopted_specimens", blocks=(Paragraph(text="@{s.name}"),)),
            Table(variable="s", listed="adopted_specimens", columns=(TableColumn(value="@{s.name}"),)),
            Paragraph(text="The end"),
        ),
    )
    people = [person(first_name="Al", volunteer=True, adopted_specimens=SEVERAL), person(first_name="Benedict")]
    found = features_of(LetterMaker(content, FIELDS).letter_for, [(one, context()) for one in people])
    where = {(one.kind, one.part) for one in found.features}
    assert {
        (K.LONGEST_SUBJECT, "subject"),
        (K.LONGEST, "subject"),
        (K.BRANCH, "blocks.0"),
        (K.BLANK, "blocks.0.arms.0.blocks.0.text"),
    } <= where
    assert len(set(found.features)) == len(found.features)
    assert [one.part for one in found.features if one.kind is K.BLANK] == ["blocks.0.arms.0.blocks.0.text"]


@given(st.lists(records, max_size=6))
def test_any_people_have_features_and_only_what_somebody_shows_is_one(people: list[dict[str, Value]]) -> None:
    text = '@{town}@{pledge}@{if volunteer}@{visits_last_year}@{end}@{each s in adopted_specimens}@{s.price else "-"}@{end}'
    content = MessageContent(subject="@{first_name}", blocks=(Paragraph(text=text),))
    found = features_of(LetterMaker(content, FIELDS).letter_for, [(one, context()) for one in people])
    assert found.has.shape == (len(people), len(found.features))
    assert found.has.any(axis=0).all()


matrices = st.integers(0, 6).flatmap(
    lambda width: st.lists(st.lists(st.booleans(), min_size=width, max_size=width), max_size=7)
)


def features_like(rows: list[list[bool]]) -> Features:
    has = np.array(rows, dtype=np.bool_).reshape(len(rows), len(rows[0]) if rows else 0)
    has = has[:, has.any(axis=0)]
    names = [Feature(kind=K.BRANCH, which=str(place)) for place in range(has.shape[1])]
    return Features(features=tuple(names), has=has)


@given(matrices, st.integers(1, 8))
@example([[True, False], [False, True], [True, True]], 1)
def test_few_people_show_everything_that_somebody_shows(rows: list[list[bool]], most: int) -> None:
    found = features_like(rows)
    proofs = choose_proofs(found, most)
    assert proofs == choose_proofs(found, most)
    assert len(proofs) <= most
    assert bool(proofs) == bool(rows)
    seen: set[int] = set()
    for proof in proofs:
        own = set(np.flatnonzero(found.has[proof.recipient]).tolist())
        assert set(proof.shows) == own - seen
        assert proof.shows or len(proofs) == 1
        seen |= own
    needed = fewest(found)
    if len(proofs) < most:
        assert seen == set(range(len(found.features)))
        widest = max([1, *found.has.sum(axis=1).tolist()]) if len(rows) else 1
        assert len(proofs) <= max(1, needed * (1 + math.log(widest)))


def fewest(found: Features) -> int:
    """How many are needed at least, by trying all."""
    for size in range(len(found.has) + 1):
        for some in itertools.combinations(range(len(found.has)), size):
            if found.has[list(some)].any(axis=0).all():
                return size
    return 0


@given(matrices)
def test_shapes_are_groups_of_who_shows_the_same(rows: list[list[bool]]) -> None:
    found = features_like(rows)
    shapes = shapes_of(found)
    assert sum(shape.people for shape in shapes) == len(rows)
    assert [shape.people for shape in shapes] == sorted((shape.people for shape in shapes), reverse=True)
    kept = [tuple(row) for row in found.has.tolist()]
    for shape in shapes:
        assert kept.count(kept[shape.recipient]) == shape.people
        assert kept.index(kept[shape.recipient]) == shape.recipient


def test_the_latest_day_is_no_number_and_its_text_counts() -> None:
    first, second = looked_at("@{renews_on}", person(renews_on=date(2026, 5, 1)), person(renews_on=date(2026, 10, 31)))
    assert (first, second) == ({("shortest", "renews_on", "")}, {("longest", "renews_on", "")})


def test_a_day_that_is_past_is_told_from_one_ahead() -> None:
    today = context().clock.today
    past, ahead = person(renews_on=today - timedelta(days=1)), person(renews_on=today)
    assert looked_at("@{renews_on}", past, ahead) == [{("past", "renews_on", "")}, set()]


@pytest.mark.parametrize(
    ("feature", "words"),
    [
        (Feature(kind=K.FALLBACK, about="first_name"), "no first name: the fallback"),
        (Feature(kind=K.LIST_MANY, about="adopted_specimens"), "several adopted specimens"),
        (Feature(kind=K.LARGEST, about="s.price"), "largest price"),
        (Feature(kind=K.BRANCH, which="volunteer"), "only for volunteer"),
        (Feature(kind=K.BRANCH, about="volunteer"), "for everybody but volunteer"),
        (Feature(kind=K.LOCALE, which="pl"), "reads Polish"),
        (Feature(kind=K.SCRIPT, which="Arabic"), "a name in Arabic"),
        (Feature(kind=K.LONGEST, about="count(walk_bookings)"), "longest count(walk_bookings)"),
    ],
)
def test_a_feature_is_told_in_the_words_of_the_fields(feature: Feature, words: str) -> None:
    assert feature_words(feature, FIELDS) == words


def test_every_kind_of_feature_has_its_words() -> None:
    assert set(FEATURE_WORDS) == set(FeatureKind)
