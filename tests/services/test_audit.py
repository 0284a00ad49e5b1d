"""What the audit log keeps of what was done, and how it is found there."""

from datetime import date, timedelta

import pytest

from tests.support.acting import acting
from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM, AuditArea, Role
from uvarovite.services.accounts.audit import audit_page
from uvarovite.services.accounts.permitted import NotAllowed
from uvarovite.services.accounts.users import create_user
from uvarovite.services.audiences.audiences import delete_audience, save_audience
from uvarovite.services.contacts.editing import add_person
from uvarovite.services.delivery.dispatch import go_on, pause, stop
from uvarovite.services.selection.bulk import Selection, erase, tag
from uvarovite.store.database import run_sql


def words(museum: Museum, **asked: object) -> list[str]:
    """The sentences of the log, latest first."""
    return [f"{line.name} {line.words}" for line in audit_page(museum.database, SYSTEM, **asked).lines]  # type: ignore[arg-type]


@pytest.fixture
def signe(museum: Museum) -> int:
    return create_user(
        museum.database, SYSTEM, email="signe@skarnmuseum.example", name="Signe", password="x" * 12, now=NOW
    )


def test_a_run_is_told_step_by_step(museum: Museum, signe: int) -> None:
    run_id = museum.release()
    pause(museum.database, acting(signe), run_id, NOW)
    # What is so already was not done a second time.
    pause(museum.database, acting(signe), run_id, NOW)
    go_on(museum.database, acting(signe), run_id, NOW)
    stop(museum.database, acting(signe), run_id, NOW)
    assert words(museum)[:4] == [
        "Somebody stopped Walks",
        "Somebody resumed Walks",
        "Somebody paused Walks",
        "Uvarovite released Walks to 5 people",
    ]
    line = audit_page(museum.database, SYSTEM, limit=1).lines[0]
    assert (line.user_id, line.about_id, line.area) == (signe, run_id, AuditArea.SENDING)


def test_what_is_refused_or_fails_leaves_no_entry(museum: Museum) -> None:
    before = words(museum)
    with pytest.raises(NotAllowed):
        delete_audience(museum.database, acting(1, Role.READER), museum.audience_id)
    with pytest.raises(Exception, match="goes to this audience"):
        delete_audience(museum.database, SYSTEM, museum.audience_id)
    assert words(museum) == before


def test_nobody_who_was_erased_is_named(museum: Museum) -> None:
    address = "zyxtra.kestrel@slatepost.example"
    person = add_person(museum.database, SYSTEM, {"address": address, "first_name": "Zyxtra"}, hasher=HASHER, now=NOW)
    tag(museum.database, SYSTEM, Selection(ids=[person], seen=1), name="guest", put=True, now=NOW)
    erase(museum.database, SYSTEM, Selection(ids=[person], seen=1), hasher=HASHER, now=NOW)
    assert words(museum)[0] == "Uvarovite erased 1 contact for good"
    with museum.database.transaction() as tx:
        told = str(run_sql(tx, "SELECT string_agg(action || facts::text || actor_name, ' ') FROM audit_entry"))
    assert "erased" in told
    assert "zyxtra" not in told.lower()


def test_the_log_is_found_by_words_part_person_and_day(museum: Museum, signe: int) -> None:
    save_audience(
        museum.database, acting(signe), audience_id=None, name="100% of_Skarn", text="everyone", revision=None, now=NOW
    )
    found = ["Somebody saved the audience 100% of_Skarn"]
    # Signs that mean something to a pattern mean themselves; words of the action count as facts do.
    for search in ("100%", "of_Sk", "  100% OF_skarn "):
        assert words(museum, search=search) == found
    assert words(museum, search="100_") == []
    assert found[0] in words(museum, search="saved the audience")
    assert words(museum, user_id=signe) == found
    assert words(museum, area=AuditArea.WRITING, user_id=signe) == found
    assert words(museum, area=AuditArea.SENDING, user_id=signe) == []
    today = audit_page(museum.database, SYSTEM, limit=1).lines[0].at.date()
    assert words(museum, since=today - timedelta(days=1), until=today + timedelta(days=1), user_id=signe) == found
    assert words(museum, since=today + timedelta(days=2)) == []
    assert words(museum, until=today - timedelta(days=2)) == []
    assert len(words(museum, until=date.max)) > 1


def test_pages_follow_each_other_without_a_gap(museum: Museum) -> None:
    everything = words(museum, limit=200)
    told: list[str] = []
    before: int | None = None
    while True:
        page = audit_page(museum.database, SYSTEM, before=before, limit=3)
        told += [f"{line.name} {line.words}" for line in page.lines]
        if not page.more:
            break
        before = page.lines[-1].id
    assert told == everything
