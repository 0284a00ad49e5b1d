"""Parts of an audience: they share nobody, together they are everybody, and tomorrow they are the same."""

import re
from collections import Counter
from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.support.importing import import_people
from tests.support.museum import NOW, Museum, explained, make_museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import PART_FORM
from uvarovite.core.values.bounds import fault_in_words
from uvarovite.services.audiences.audiences import AudienceView, audience_list, save_audience
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.audiences.freezing import drift, freeze, since_last_run
from uvarovite.services.errors import BadInput
from uvarovite.store.database import Database, run_sql

TOWNS = ("Skarn",) * 30 + ("Breccia",) * 12 + ("Skellbeck",) * 6 + ("",) * 2


@pytest.fixture
def towns(database: Database) -> Museum:
    """Fifty people: thirty of Skarn, twelve of Breccia, six of Skellbeck, two of nowhere."""
    lines = [f"T-{place},p{place}@slatepost.example,{town}" for place, town in enumerate(TOWNS)]
    return make_museum(database, people="Contact no.,E-mail address,Town\n" + "\n".join(lines) + "\n")


def choose_part(museum: Museum, part: Mapping[str, Any] | None) -> AudienceView:
    """Save the audience with a part of those who match."""
    now = next(one for one in audience_list(museum.database, SYSTEM) if one.id == museum.audience_id)
    return save_audience(
        museum.database, SYSTEM, audience_id=now.id, name=now.name, text=now.text,
        part=PART_FORM.read(part) if part is not None else None, revision=now.revision, now=NOW,
    )  # fmt: skip


def people(museum: Museum, part: Mapping[str, Any] | None) -> set[int]:
    """The people of the audience when it consists of a part."""
    choose_part(museum, part)
    asked: dict[str, Any] = {
        "text": "everyone",
        "audience_id": museum.audience_id,
        "topic_id": museum.topic_id,
        "now": NOW,
    }
    found = people_behind(museum.database, SYSTEM, gate=None, after_id=0, **asked)
    assert len(found) == clearance(museum.database, SYSTEM, **asked).matched
    return {person.id for person in found}


def by_town(museum: Museum, ids: set[int]) -> Counter[str]:
    with museum.database.transaction() as tx:
        rows = run_sql(
            tx, "SELECT coalesce(own->>'town', '') AS town FROM contact WHERE id = ANY(:ids)", {"ids": list(ids)}
        )
    return Counter(row.town for row in rows)


SPREADS = st.sampled_from([None, "town", "language"])


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
@given(
    st.sampled_from(["oldest", "latest", "random"]),
    st.integers(0, 999_999),
    SPREADS,
    st.lists(st.integers(1, 60), min_size=1, max_size=4, unique=True),
)
def test_ranges_cut_an_audience_without_a_rest(
    towns: Museum, order: str, seed: int, spread: str | None, ends: list[int]
) -> None:
    found: set[int] = set()
    first = 1
    for last in [*sorted(ends), 100]:
        part = {"kind": "places", "first": first, "last": last, "order": order, "seed": seed, "spread_over": spread}
        some = people(towns, part)
        assert some == people(towns, part)
        assert not some & found
        assert len(some) == max(0, min(50, last) - first + 1)
        found |= some
        first = last + 1
    assert found == people(towns, None)


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=25)
@given(st.integers(0, 999_999), SPREADS, st.floats(0.5, 99.5))
def test_shares_cut_an_audience_without_a_rest(towns: Museum, seed: int, spread: str | None, percent: float) -> None:
    told = {"kind": "share", "seed": seed, "spread_over": spread}
    some = people(towns, {**told, "to_percent": percent})
    assert some == people(towns, {**told, "to_percent": percent})
    rest = people(towns, {**told, "from_percent": percent, "to_percent": 100})
    assert not some & rest
    assert some | rest == people(towns, None)
    if spread == "town":
        # From each town its share, give or take the one that cannot be cut.
        for town, count in by_town(towns, some | rest).items():
            assert abs(by_town(towns, some)[town] - count * percent / 100) <= 1


def test_the_first_and_the_latest_are_those_and_a_spread_takes_from_each_value_in_turn(towns: Museum) -> None:
    everybody = sorted(people(towns, None))
    assert people(towns, {"kind": "places", "last": 3}) == set(everybody[:3])
    assert people(towns, {"kind": "places", "first": 2, "last": 3, "order": "latest"}) == set(everybody[-3:-1])
    spread = people(towns, {"kind": "places", "last": 20, "order": "random", "spread_over": "town"})
    assert by_town(towns, spread) == {"Skarn": 6, "Breccia": 6, "Skellbeck": 6, "": 2}
    drawn = [people(towns, {"kind": "places", "last": 20, "order": "random", "seed": seed}) for seed in (1, 2)]
    assert drawn[0] != drawn[1]


def test_a_part_holds_where_the_audience_is_named_and_when_it_is_asked_why(towns: Museum) -> None:
    people(towns, {"kind": "places", "last": 3})
    database = towns.database
    told = clearance(
        database, SYSTEM, text='in audience "Everyone" and town is "Skarn"', topic_id=towns.topic_id, now=NOW
    )
    assert told.matched == 3
    asked: dict[str, Any] = {
        "text": "everyone",
        "audience_id": towns.audience_id,
        "topic_id": towns.topic_id,
        "now": NOW,
    }
    assert "is not in the part of them" in explained(database, address="p9@slatepost.example", **asked)[0].words
    assert explained(database, address="p1@slatepost.example", **asked)[0].matched


def test_a_frozen_audience_is_sent_part_by_part_while_others_come(towns: Museum) -> None:
    database = towns.database
    first, rest = {"kind": "places", "last": 20}, {"kind": "places", "first": 21, "last": 1_000}
    before = people(towns, first)
    assert freeze(database, SYSTEM, towns.audience_id, NOW) == 50
    import_people(towns, "Contact no.,E-mail address,Town\nT-99,late@slatepost.example,Skarn\n")
    with database.transaction() as tx:
        # The first of them would move everybody else one place up, were it not for the snapshot.
        run_sql(tx, "UPDATE contact SET own = '{}', folded = '{}' WHERE contact_no = 'T-0'")
    assert people(towns, first) == before
    after = people(towns, rest)
    assert (len(after), before & after) == (30, set())
    told = clearance(database, SYSTEM, text='in audience "Everyone"', topic_id=towns.topic_id, now=NOW)
    assert told.matched == 30
    found = drift(database, SYSTEM, towns.audience_id, NOW)
    assert (found.come, found.gone) == (1, 0)


@pytest.mark.parametrize(
    ("part", "words"),
    [
        ({"kind": "places", "last": 0}, "^Last has to be at least 1; it is 0 now.$"),
        ({"kind": "places", "first": 5, "last": 4}, "^The last place cannot come before"),
        ({"kind": "share", "to_percent": 101}, "^To percent can be at most 100; it is 101 now.$"),
        ({"kind": "share", "from_percent": 10, "to_percent": 10}, "^A share ends behind"),
        ({"kind": "half"}, "^Kind is not one of"),
    ],
)
def test_a_part_that_cannot_be_is_refused(part: Mapping[str, Any], words: str) -> None:
    with pytest.raises(ValidationError) as fault:
        PART_FORM.read(part)
    assert re.search(words, fault_in_words(fault.value.errors()[0]))


@pytest.mark.parametrize(("field", "words"), [("shoe_size", "no such field"), ("walk_bookings", "a list cannot")])
def test_a_part_is_spread_over_a_field_that_has_one_value(museum: Museum, field: str, words: str) -> None:
    with pytest.raises(BadInput, match=words):
        choose_part(museum, {"kind": "places", "last": 3, "spread_over": field})


def test_what_has_changed_since_the_last_run_is_told_by_name(museum: Museum) -> None:
    database = museum.database
    assert since_last_run(database, SYSTEM, museum.audience_id, NOW) is None
    museum.release()
    told = since_last_run(database, SYSTEM, museum.audience_id, NOW)
    assert told is not None
    assert (told.campaign, told.planned, told.come, told.gone) == ("Walks", 5, 0, 0)
    save_audience(
        database,
        SYSTEM,
        audience_id=museum.audience_id,
        name="Everyone",
        text='town is not "Breccia"',
        revision=1,
        now=NOW,
    )
    with database.transaction() as tx:
        run_sql(tx, "UPDATE suppression SET lifted_at = now(), lifted_why = '' WHERE address_folded LIKE 'ivy%'")
    told = since_last_run(database, SYSTEM, museum.audience_id, NOW)
    assert told is not None
    assert ([one.name for one in told.come_people], [one.name for one in told.gone_people]) == (["Ivy Cragg"], ["Wren"])
