"""Releases that are planned for a moment: they go then, or say why not."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta

import pytest

from tests.support.acting import acting
from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM, Actor, Role
from uvarovite.services.accounts.users import create_user
from uvarovite.services.campaigns.planned import LATE, PlanAsk, plan_release, release_due, take_back_release
from uvarovite.services.consent.by_hand import suppress_by_hand
from uvarovite.services.delivery.watching import desk
from uvarovite.services.errors import BadInput, Conflict, ServiceRefusal
from uvarovite.store.database import run_sql

AT = NOW + timedelta(days=2)


@pytest.fixture
def releaser(museum: Museum) -> Actor:
    user = create_user(
        museum.database,
        SYSTEM,
        email="signe@skarnmuseum.example",
        name="Signe Vale",
        password="garnet-lantern-41",
        now=NOW,
    )
    return acting(user, Role.RELEASER)


def ask(museum: Museum, at: datetime = AT) -> PlanAsk:
    view = museum.view()
    assert view.clearance is not None
    return PlanAsk(
        campaign_id=museum.campaign_id,
        at=at,
        revision=view.revision,
        seen_cleared=view.clearance.cleared,
        seen_message_number=view.message_number or 0,
    )


def due(museum: Museum, now: datetime, prepare: Callable[[], None] = lambda: None) -> int:
    return release_due(museum.database, prepare=prepare, public_url="http://127.0.0.1", keyring=KEYRING, now=now)


def runs(museum: Museum) -> int:
    with museum.database.transaction() as tx:
        return int(run_sql(tx, "SELECT count(*) FROM run")[0][0])


def test_it_goes_at_its_moment_once_whoever_looks(museum: Museum, releaser: Actor) -> None:
    view = plan_release(museum.database, releaser, ask(museum), NOW)
    assert view.planned is not None
    assert (view.planned.at, view.planned.people, view.planned.changed) == (AT, 5, False)
    assert view.forecast is not None
    assert view.forecast.start == AT
    assert due(museum, AT - timedelta(seconds=1)) == 0
    with ThreadPoolExecutor(2) as workers:
        went = [one.result() for one in [workers.submit(due, museum, AT) for _ in range(2)]]
    assert (sum(went), runs(museum)) == (1, 1)
    assert museum.view(AT).planned is None
    assert desk(museum.database, releaser, AT).not_released == []


def test_a_moment_is_told_by_the_organisations_clock(museum: Museum, releaser: Actor) -> None:
    local = datetime.fromisoformat("2027-06-01T10:00")
    view = plan_release(museum.database, releaser, ask(museum, local), NOW)
    assert view.planned is not None
    assert view.planned.at.hour == 9, "summer time"


@pytest.mark.parametrize("at", [NOW, NOW - timedelta(days=1), NOW + timedelta(days=400)])
def test_a_moment_lies_ahead_and_within_a_year(museum: Museum, releaser: Actor, at: datetime) -> None:
    with pytest.raises(BadInput):
        plan_release(museum.database, releaser, ask(museum, at), NOW)


def test_it_can_be_moved_and_taken_back(museum: Museum, releaser: Actor) -> None:
    plan_release(museum.database, releaser, ask(museum), NOW)
    plan_release(museum.database, releaser, ask(museum, AT + timedelta(days=1)), NOW)
    assert due(museum, AT) == 0
    assert take_back_release(museum.database, releaser, museum.campaign_id, NOW).planned is None
    assert (due(museum, AT + timedelta(days=1)), runs(museum)) == (0, 0)


def test_what_is_blocked_or_another_one_by_now_is_not_planned(museum: Museum, releaser: Actor) -> None:
    wanted = ask(museum)
    museum.change(name="Walks, again")
    with pytest.raises(Conflict):
        plan_release(museum.database, releaser, wanted, NOW)
    museum.change(pool_id=None)
    with pytest.raises(ServiceRefusal, match="stands in the way"):
        plan_release(museum.database, releaser, ask(museum), NOW)


def test_one_that_changed_since_does_not_go_and_says_so(museum: Museum, releaser: Actor) -> None:
    plan_release(museum.database, releaser, ask(museum), NOW)
    view = museum.change(name="Another name")
    assert view.planned is not None
    assert view.planned.changed
    why(museum, releaser, AT, "changed since")


def test_other_people_than_expected_stop_it(museum: Museum, releaser: Actor) -> None:
    plan_release(museum.database, releaser, ask(museum), NOW)
    suppress_by_hand(museum.database, releaser, contact_no="M-01", reason="asked by telephone", at=NOW)
    why(museum, releaser, AT, "4 people are cleared now; it was 5")


def test_what_nothing_ran_for_does_not_go_hours_later(museum: Museum, releaser: Actor) -> None:
    plan_release(museum.database, releaser, ask(museum), NOW)
    why(museum, releaser, AT + LATE + timedelta(seconds=1), "Nothing ran when it was due")


def test_whoever_planned_it_must_be_allowed_still(museum: Museum, releaser: Actor) -> None:
    plan_release(museum.database, releaser, ask(museum), NOW)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE user_account SET role = 'author' WHERE id = :id RETURNING id", {"id": releaser.user_id})
    why(museum, releaser, AT, "role")
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE user_account SET role = 'releaser' WHERE id = :id RETURNING id", {"id": releaser.user_id})
    plan_release(museum.database, releaser, ask(museum), NOW)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE user_account SET left_at = now() WHERE id = :id RETURNING id", {"id": releaser.user_id})
    why(museum, releaser, AT, "no account any more")


def test_a_source_that_cannot_be_read_stops_it(museum: Museum, releaser: Actor) -> None:
    def fails() -> None:
        raise ServiceRefusal("source", "The live source could not be fetched.")

    plan_release(museum.database, releaser, ask(museum), NOW)
    assert due(museum, AT, fails) == 0
    assert [one.words for one in desk(museum.database, releaser, AT).not_released] == [
        "The live source could not be fetched."
    ]


def why(museum: Museum, actor: Actor, now: datetime, words: str) -> None:
    """It does not go, says why where somebody sees it, and is not tried again by itself."""
    assert due(museum, now) == 0
    assert runs(museum) == 0
    [told] = desk(museum.database, actor, now).not_released
    assert words in told.words
    assert due(museum, now) == 0
