"""A frozen audience is the people of one moment, on screen, at release, and where others refer to it."""

from datetime import timedelta

import pytest

from tests.support.museum import HASHER, NOW, Museum, explained
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.audiences.audiences import audience_list, save_audience
from uvarovite.services.audiences.freezing import drift, freeze, thaw
from uvarovite.services.audiences.members import pick_one
from uvarovite.services.contacts.editing import change_value
from uvarovite.services.errors import Conflict
from uvarovite.services.selection.bulk import Selection, delete, erase
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.store.database import run_sql

LATER = NOW + timedelta(days=3)


@pytest.fixture
def friends(museum: Museum) -> Museum:
    """The audience narrowed to the friends, seven of whom two are cleared."""
    save_audience(
        museum.database,
        SYSTEM,
        audience_id=museum.audience_id,
        name="Friends",
        text='membership is "Friend"',
        revision=1,
        now=NOW,
    )
    return museum


def become(museum: Museum, contact_no: str, before: str, after: str) -> None:
    change_value(
        museum.database,
        SYSTEM,
        contact_id=museum.contact_id(contact_no),
        key="membership",
        before=before,
        text=after,
        hasher=HASHER,
        now=LATER,
    )


def numbers(museum: Museum) -> tuple[int, int]:
    taken = museum.view(LATER).clearance
    assert taken is not None
    return taken.matched, taken.cleared


def test_a_frozen_audience_stays_who_it_was_and_tells_what_has_changed(friends: Museum) -> None:
    database, audience_id = friends.database, friends.audience_id
    assert freeze(database, SYSTEM, audience_id, NOW) == 7
    become(friends, "M-02", "Friend", "Patron")
    become(friends, "M-03", "Fellow", "Friend")
    assert numbers(friends) == (7, 3)
    changed = drift(database, SYSTEM, audience_id, LATER)
    assert (changed.frozen_at, changed.come, changed.gone) == (NOW, 1, 1)
    assert [one.name for one in changed.come_people] == ["Ζωή Καλλέργη"]
    assert [one.name for one in changed.gone_people] == ["Benoît d’Ardoise"]
    asked = 'in audience "Friends" and membership is "Patron"'
    assert count_contacts(database, SYSTEM, wanted=Wanted(criteria=asked), now=LATER) == 1
    (zoe,) = explained(
        database,
        text='membership is "Friend"',
        address="zoe@slatepost.example",
        audience_id=audience_id,
        topic_id=friends.topic_id,
        now=LATER,
    )
    assert zoe.words == "Ζωή Καλλέργη matches the conditions, and was not there when the audience was frozen."

    # A hand still adds to it, and what goes out is who it was.
    pick_one(database, SYSTEM, audience_id, friends.contact_id("M-03"), kind="added", now=LATER)
    assert numbers(friends) == (8, 4)
    # Gus has Ada's address, and Ada is no friend: in this audience he is the only one who has it.
    assert sorted(friends.states(friends.release(LATER))) == ["M-02", "M-03", "M-04", "M-07"]


def test_a_frozen_audience_keeps_its_conditions_until_it_follows_them_again(friends: Museum) -> None:
    database, audience_id = friends.database, friends.audience_id
    with pytest.raises(Conflict):
        thaw(database, SYSTEM, audience_id)
    with pytest.raises(Conflict):
        drift(database, SYSTEM, audience_id, NOW)
    freeze(database, SYSTEM, audience_id, NOW)
    (audience,) = audience_list(database, SYSTEM)
    assert audience.frozen_at == NOW

    def save(name: str, text: str) -> None:
        save_audience(
            database,
            SYSTEM,
            audience_id=audience_id,
            name=name,
            text=text,
            revision=audience_list(database, SYSTEM)[0].revision,
            now=LATER,
        )

    with pytest.raises(Conflict, match="frozen"):
        save("Friends", "everyone")
    save("Friends of autumn", 'membership  is "Friend"')
    become(friends, "M-03", "Fellow", "Friend")
    assert numbers(friends)[0] == 7
    # Frozen anew, it takes the people of now.
    assert freeze(database, SYSTEM, audience_id, LATER) == 8
    thaw(database, SYSTEM, audience_id)
    become(friends, "M-02", "Friend", "Patron")
    assert numbers(friends)[0] == 7
    save("Friends", "everyone")
    assert numbers(friends)[0] == 10


def test_who_is_deleted_is_in_no_snapshot_any_more_and_the_erased_leave_no_trace(friends: Museum) -> None:
    freeze(friends.database, SYSTEM, friends.audience_id, NOW)
    delete(friends.database, SYSTEM, Selection(wanted=Wanted(search="dai"), seen=1), now=LATER)
    assert numbers(friends)[0] == 6
    erased = friends.contact_id("M-02")
    selection = Selection(wanted=Wanted(search="benoit"), seen=1)
    erase(friends.database, SYSTEM, selection, hasher=HASHER, now=LATER)
    with friends.database.transaction() as tx:
        sql = "SELECT 1 FROM audience_snapshot WHERE contact_id = :id"
        assert not run_sql(tx, sql, {"id": erased})
