"""People who are in an audience, or out of it, by hand: one code for the screen, the release and the file."""

import pytest

from tests.support.importing import choices, preview, preview_again, write
from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.services.audiences.audiences import audience_list, save_audience
from uvarovite.services.audiences.clearance import clearance, people_behind
from uvarovite.services.audiences.members import member_list, pick_one, unpick
from uvarovite.services.audiences.overlap import overlap
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.imports.undo import undo_import
from uvarovite.services.selection.bulk import Selection, erase, pick, undo
from uvarovite.services.selection.table import Wanted
from uvarovite.store.database import run_sql
from uvarovite.store.tables import MemberKind

ADDED, LEFT_OUT = MemberKind.ADDED, MemberKind.LEFT_OUT


@pytest.fixture
def patrons(museum: Museum) -> Museum:
    """The audience narrowed to Ada, the only Patron; whoever had it may get it again."""
    museum.change(again=Again.EVERYBODY)
    save_audience(
        museum.database,
        SYSTEM,
        audience_id=museum.audience_id,
        name="Patrons",
        text='membership is "Patron"',
        revision=1,
        now=NOW,
    )
    return museum


def one(museum: Museum, contact_no: str, kind: MemberKind) -> None:
    contact_id = museum.contact_id(contact_no)
    pick_one(museum.database, SYSTEM, museum.audience_id, contact_id, kind=kind, now=NOW)


def cleared(museum: Museum) -> list[str]:
    """Who gets it, on the run sheet and behind the number; the two agree."""
    view = museum.view()
    assert view.clearance is not None
    assert view.criteria is not None
    people = people_behind(
        museum.database,
        SYSTEM,
        text=view.criteria,
        audience_id=museum.audience_id,
        topic_id=museum.topic_id,
        campaign_id=museum.campaign_id,
        gate=None,
        after_id=0,
        now=NOW,
    )
    assert len(people) == view.clearance.cleared
    return [person.name for person in people]


def picked(museum: Museum) -> dict[str, str]:
    return {line.name: line.kind for line in member_list(museum.database, SYSTEM, museum.audience_id)}


def test_the_hand_picked_are_matched_and_who_is_left_out_is_held(patrons: Museum) -> None:
    assert cleared(patrons) == ["Ada Thwaite-Gray"]
    one(patrons, "M-02", ADDED)
    # Added by hand is no consent: Hugh has left the topic.
    one(patrons, "M-08", ADDED)
    assert cleared(patrons) == ["Ada Thwaite-Gray", "Benoît d’Ardoise"]
    (audience,) = audience_list(patrons.database, SYSTEM)
    assert (audience.added, audience.left_out) == (2, 0)

    # Gus has Ada's address. While she is left out, he is not the second of that address any more.
    one(patrons, "M-07", ADDED)
    assert cleared(patrons) == ["Ada Thwaite-Gray", "Benoît d’Ardoise"]
    one(patrons, "M-01", LEFT_OUT)
    assert cleared(patrons) == ["Benoît d’Ardoise", "Gus Thwaite-Gray"]
    taken = patrons.view().clearance
    assert taken is not None
    assert {gate.key: gate.held for gate in taken.gates if gate.held} == {"consent": 1, "left_out": 1}
    run_id = patrons.release()
    assert sorted(patrons.states(run_id)) == ["M-02", "M-07"]

    # What is typed and not saved has no hand-picked people of its own.
    unsaved = clearance(patrons.database, SYSTEM, text="everyone", topic_id=patrons.topic_id, now=NOW)
    assert {gate.key: gate.held for gate in unsaved.gates}["left_out"] == 0

    unpick(patrons.database, SYSTEM, patrons.audience_id, patrons.contact_id("M-01"))
    assert "Ada Thwaite-Gray" in cleared(patrons)
    with pytest.raises(NotFound):
        unpick(patrons.database, SYSTEM, patrons.audience_id, patrons.contact_id("M-01"))
    with pytest.raises(NotFound):
        pick_one(patrons.database, SYSTEM, 99, patrons.contact_id("M-01"), kind=ADDED, now=NOW)
    with pytest.raises(BadInput):
        pick_one(patrons.database, SYSTEM, patrons.audience_id, 1, kind="maybe", now=NOW)


def test_many_are_added_and_the_act_is_undone_but_for_what_came_later(patrons: Museum) -> None:
    friends = Selection(wanted=Wanted(criteria='membership is "Friend"'), seen=7)
    done = pick(patrons.database, SYSTEM, friends, audience_id=patrons.audience_id, kind=ADDED, now=NOW)
    assert done.contacts == 7
    one(patrons, "M-02", LEFT_OUT)
    assert done.change_set_id is not None
    undo(patrons.database, SYSTEM, done.change_set_id, now=NOW)
    assert picked(patrons) == {"Benoît d’Ardoise": LEFT_OUT}


def test_a_files_column_puts_people_into_audiences_and_undoing_it_takes_them_out(patrons: Museum) -> None:
    one(patrons, "M-03", LEFT_OUT)
    view = preview(
        patrons,
        "Contact no.,E-mail,List\n"
        "M-02,benoit@slatepost.example,patrons\n"
        "M-03,zoe@slatepost.example,Patrons\n"
        ",new@tinmail.example, PATRONS \n"
        "M-04,dai@slatepost.example,Nobody's list\n",
    )
    columns = choices(view)
    columns[2] = type(columns[2])(use="audiences")
    view = preview_again(patrons, view, columns=columns)
    assert [(row.row, row.code) for row in view.refusals] == [(5, "no_such_audience")]
    done = write(patrons, view)
    # A file never takes back what somebody decided by hand.
    assert picked(patrons) == {"Benoît d’Ardoise": ADDED, "": ADDED, "Ζωή Καλλέργη": LEFT_OUT}
    undo_import(patrons.database, SYSTEM, done.id, now=NOW)
    assert picked(patrons) == {"Ζωή Καλλέργη": LEFT_OUT}


def test_the_erased_are_in_no_audience(patrons: Museum) -> None:
    one(patrons, "M-02", ADDED)
    erase(patrons.database, SYSTEM, Selection(wanted=Wanted(search="benoit"), seen=1), hasher=HASHER, now=NOW)
    with patrons.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM audience_member")[0][0] == 0


def test_two_audiences_are_compared_with_their_hand_picked_people(patrons: Museum) -> None:
    skarn = save_audience(
        patrons.database, SYSTEM, audience_id=None, name="Skarn", text='town is "Skarn"', revision=None, now=NOW
    )

    def told(this: int, other: int) -> tuple[int, int, int]:
        found = overlap(patrons.database, SYSTEM, this, other, NOW)
        return found.here, found.both, found.there

    assert told(patrons.audience_id, skarn.id) == (0, 1, 7)
    one(patrons, "M-02", ADDED)
    assert told(patrons.audience_id, skarn.id) == (1, 1, 7)
    one(patrons, "M-01", LEFT_OUT)
    assert told(patrons.audience_id, skarn.id) == (1, 0, 8)
    assert told(skarn.id, patrons.audience_id) == (8, 0, 1)
    assert told(skarn.id, skarn.id) == (0, 8, 0)
