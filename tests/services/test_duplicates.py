"""Duplicates: found, merged field by field or by a rule; nothing is lost, and consent never widens."""

from datetime import timedelta

import pytest

from tests.support.importing import import_people
from tests.support.museum import NOW, Museum
from tests.support.sending import claim, give_back, kit_of, mark, send_all, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEvidence
from uvarovite.services.contacts import duplicates, editing
from uvarovite.services.contacts.people import Person, person
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.selection import bulk
from uvarovite.services.selection.bulk import Selection
from uvarovite.services.selection.table import Wanted, count_contacts
from uvarovite.store.database import run_sql


def who(museum: Museum, contact_id: int) -> Person:
    return person(museum.database, SYSTEM, contact_id, NOW)


def merge(museum: Museum, kept: int, gone: int, **choices: int) -> None:
    duplicates.merge(museum.database, SYSTEM, kept_id=kept, gone_ids=[gone], choices=choices, now=NOW)


def test_two_with_one_address_become_one_with_what_both_had(museum: Museum) -> None:
    ada, gus = museum.contact_id("M-01"), museum.contact_id("M-07")
    run_id = museum.release()
    editing.add_note(museum.database, SYSTEM, gus, "Likes opals", now=NOW)
    bulk.tag(museum.database, SYSTEM, Selection(ids=(gus,), seen=1), name="walker", put=True, now=NOW)
    import_people(museum, "Contact no.,School\nM-07,Gossan Academy\n")
    groups = duplicates.duplicate_groups(museum.database, SYSTEM, now=NOW)
    assert [[one.id for one in group.people] for group in groups] == [[ada, gus]]
    merge(museum, gus, ada, town=ada, contact_no=ada)
    kept = who(museum, gus)
    assert (kept.record["contact_no"], kept.record["first_name"], kept.record["school"]) == (
        "M-01",
        "Gus",
        "Gossan Academy",
    )
    assert (kept.tags, [note.text for note in kept.notes]) == (["walker"], ["Likes opals"])
    assert [line.run_id for line in kept.sent] == [run_id]
    assert kept.history[0].what == "Merged with M-01"
    assert duplicates.duplicate_groups(museum.database, SYSTEM, now=NOW) == []
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(search="ada@slatepost"), now=NOW) == 1
    with pytest.raises(NotFound):
        merge(museum, gus, ada)
    with pytest.raises(BadInput):
        merge(museum, gus, gus)


def test_consent_merges_to_the_narrower_of_the_two(museum: Museum) -> None:
    # Hugh has left Field walks, Fenwick is subscribed to it; Hugh alone is subscribed to the news.
    hugh, fenwick = museum.contact_id("M-08"), museum.contact_id("M-06")
    bulk.subscribe(
        museum.database,
        SYSTEM,
        Selection(ids=(hugh,), seen=1),
        topic="museum_news",
        legal_basis="At the desk",
        now=NOW,
    )
    told = duplicates.compare(museum.database, SYSTEM, [fenwick, hugh], NOW).merged
    assert (told["field_walks"], told["museum_news"]) == ("left", "never")
    merge(museum, fenwick, hugh)
    states = {topic.key: topic.state for topic in who(museum, fenwick).topics}
    assert states == told
    assert who(museum, fenwick).ledger[0].evidence == ConsentEvidence(merged=[hugh])
    import_people(museum, "Contact no.\nM-06\n", topic="field_walks", legal_basis="An old list")
    assert {topic.key: topic.state for topic in who(museum, fenwick).topics}["field_walks"] == "left"


def test_all_groups_are_merged_by_a_rule_or_none(museum: Museum) -> None:
    import_people(museum, "Contact no.,First name,Last name,Town\nX-1,Ivy,Cragg,Skarn\nX-2,ivy,CRAGG,SKARN\n")
    groups = duplicates.duplicate_groups(museum.database, SYSTEM, by="town", now=NOW)
    assert [len(group.people) for group in groups] == [3]
    with pytest.raises(BadInput, match="Nothing was merged"):
        duplicates.merge_all(museum.database, SYSTEM, by="town", keep="oldest", seen=2, now=NOW)
    assert duplicates.merge_all(museum.database, SYSTEM, by="town", keep="oldest", seen=1, now=NOW) == 1
    ivy = who(museum, museum.contact_id("M-09"))
    assert ivy.record["first_name"] == "Ivy"
    assert count_contacts(museum.database, SYSTEM, wanted=Wanted(search="cragg"), now=NOW) == 1
    for by, keep in (("pledge", "oldest"), ("nothing", "oldest"), ("town", "shortest")):
        with pytest.raises(BadInput):
            duplicates.merge_all(museum.database, SYSTEM, by=by, keep=keep, seen=0, now=NOW)


def test_a_merge_carries_suppression_and_pauses_over(museum: Museum) -> None:
    # Ivy's address is suppressed, Benoît pauses, Edda has neither.
    ivy, benoit, edda = (museum.contact_id(number) for number in ("M-09", "M-02", "M-05"))
    until = NOW + timedelta(days=20)
    editing.record_consent(
        museum.database, SYSTEM, benoit, topic="field_walks", kind="paused", wording="on holiday", until=until, now=NOW,
    )  # fmt: skip
    duplicates.merge(museum.database, SYSTEM, kept_id=edda, gone_ids=[ivy, benoit], choices={}, now=NOW)
    kept = who(museum, edda)
    assert [(entry.reason, entry.topic) for entry in kept.suppressions] == [("by_hand", None)]
    walks = next(topic for topic in kept.topics if topic.key == "field_walks")
    assert (walks.state, walks.paused_until) == ("paused", until)


@pytest.mark.parametrize("first", ["M-01", "M-02"])
def test_two_who_are_merged_while_a_run_is_on_its_way_get_it_once(museum: Museum, first: str) -> None:
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    batch = claim(museum, "a")
    assert batch is not None
    # Either nobody of the two has it yet, or one of them is just getting it.
    wanted = [museum.delivery_id(run_id, first)] if first == "M-02" else []
    marked = mark(museum, batch, kit, wanted).marked
    merge(museum, museum.contact_id("M-01"), museum.contact_id("M-02"))
    settle(museum, batch, kit, marked)
    give_back(museum, batch)
    send_all(museum, run_id)
    with museum.database.transaction() as tx:
        rows = run_sql(
            tx,
            "SELECT address_folded, state, held_reason FROM delivery WHERE contact_id = :id ORDER BY state",
            {"id": museum.contact_id("M-01")},
        )
    went, other = ("benoit", "ada") if first == "M-02" else ("ada", "benoit")
    assert [tuple(row) for row in rows] == [
        (f"{went}@slatepost.example", "accepted", None),
        (f"{other}@slatepost.example", "held", "merged"),
    ]


def test_whoever_may_not_be_one_person_is_not_merged_with_all_the_others(museum: Museum) -> None:
    import_people(
        museum,
        "Contact no.,E-mail address,First name\nH-1,oak@slatepost.example,Mia\nH-2,oak@slatepost.example,Nils\n"
        "T-1,elm@slatepost.example,Olga\nT-2,elm@slatepost.example,OLGA\nT-3,elm@slatepost.example,\n"
        "S-1,fir@slatepost.example,Pia\nS-2,fir@slatepost.example,Pia\nS-3,fir@slatepost.example,Pia\n"
        + "".join(f"U-{n},yew@slatepost.example,{'Rolf' if n else ''}\n" for n in range(7)),
    )
    duplicates.say_different(museum.database, SYSTEM, [museum.contact_id("S-1"), museum.contact_id("S-2")], now=NOW)
    groups = {group.what: group for group in duplicates.duplicate_groups(museum.database, SYSTEM, now=NOW)}
    in_doubt = {what for what, group in groups.items() if group.doubt}
    assert in_doubt == {f"{one}@slatepost.example" for one in ("ada", "oak", "fir", "yew")}
    assert "elm@slatepost.example" in groups
    merged = duplicates.merge_all(
        museum.database, SYSTEM, by="address", keep="oldest", seen=len(groups) - len(in_doubt), now=NOW
    )
    assert merged == len(groups) - len(in_doubt)
    left = {group.what: len(group.people) for group in duplicates.duplicate_groups(museum.database, SYSTEM, now=NOW)}
    # Of those that are too many the first six are shown.
    assert left == {f"{one}@slatepost.example": n for one, n in (("ada", 2), ("fir", 3), ("oak", 2), ("yew", 6))}


def test_who_was_said_to_be_different_people_is_not_offered_again(museum: Museum) -> None:
    import_people(museum, "Contact no.,E-mail address\nA,oak@slatepost.example\nB,oak@slatepost.example\n")

    def offered() -> list[list[int]]:
        return [
            [one.id for one in group.people]
            for group in duplicates.duplicate_groups(museum.database, SYSTEM, now=NOW)
            if group.what == "oak@slatepost.example"
        ]

    [pair] = offered()
    duplicates.say_different(museum.database, SYSTEM, pair, now=NOW)
    duplicates.say_different(museum.database, SYSTEM, pair, now=NOW)
    assert offered() == []
    # A third one may be either of them.
    import_people(museum, "Contact no.,E-mail address\nC,oak@slatepost.example\n")
    assert [len(group) for group in offered()] == [3]
    duplicates.take_back_different(museum.database, SYSTEM, pair)
    assert [len(group) for group in offered()] == [3]
    with pytest.raises(NotFound):
        duplicates.say_different(museum.database, SYSTEM, pair[:1], now=NOW)


def test_what_a_merge_does_to_consent_and_suppression_is_said_before(museum: Museum) -> None:
    fenwick, hugh, ivy = (museum.contact_id(one) for one in ("M-06", "M-08", "M-09"))
    until = NOW + timedelta(days=30)
    editing.record_consent(
        museum.database, SYSTEM, fenwick, topic="field_walks", kind="paused", wording="On holiday", until=until,
        now=NOW,
    )  # fmt: skip
    pair = duplicates.compare(museum.database, SYSTEM, [fenwick, hugh], NOW)
    assert next(one for one in pair.people if one.id == fenwick).pauses == {"field_walks": until}
    assert pair.effects[0] == "Field walks: they have left it, as one of them did."
    ada = museum.contact_id("M-01")
    paused = duplicates.compare(museum.database, SYSTEM, [fenwick, ada], NOW)
    assert f"Field walks: they pause until {until:%-d %B %Y}." in paused.effects
    suppressed = duplicates.compare(museum.database, SYSTEM, [ada, ivy], NOW).effects
    assert any("is suppressed for all mail" in one and "the address that stays" in one for one in suppressed)
