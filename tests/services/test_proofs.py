"""Proofs of a campaign: made of everybody who is cleared, ticked off letter by letter, and kept as long as nothing changes."""

from datetime import timedelta

import pytest

from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Arm, MessageContent, Only, Paragraph
from uvarovite.core.messages.look import Look
from uvarovite.services.campaigns import proofs
from uvarovite.services.campaigns.proofs import ProofSheetView
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.looks import save_look
from uvarovite.services.messages.messages import save_message
from uvarovite.store.campaigns import proofs as store
from uvarovite.store.database import run_sql


def look(museum: Museum) -> ProofSheetView:
    return proofs.get_proofs(museum.database, SYSTEM, museum.campaign_id, keyring=KEYRING, now=NOW)


def make(museum: Museum) -> ProofSheetView:
    proofs.make_proofs(museum.database, SYSTEM, museum.campaign_id, keyring=KEYRING, clock=lambda: NOW)
    return look(museum)


def tick(museum: Museum, sheet: ProofSheetView, *, right: bool = True) -> None:
    for one in sheet.proofs:
        proofs.tick_proof(
            museum.database, SYSTEM, museum.campaign_id, one.contact_id, digest=one.digest, right=right, now=NOW
        )


def say(museum: Museum, *blocks: Paragraph | Only, subject: str = "Two walks") -> None:
    view = museum.view()
    with museum.database.transaction() as tx:
        revision = run_sql(tx, "SELECT revision FROM message WHERE id = :id", {"id": museum.message_id})[0].revision
    content = MessageContent(subject=subject, blocks=blocks)
    save_message(
        museum.database,
        SYSTEM,
        message_id=museum.message_id,
        name=view.message or "",
        content=content,
        revision=revision,
        now=NOW,
    )


PATRONS = Only(
    arms=(Arm(criteria='membership is "Patron"', blocks=(Paragraph(text="Bring two guests."),)),),
    otherwise=(Paragraph(text="Bring a guest."),),
)


def test_everything_that_letters_show_is_on_the_sheet_with_who_shows_it(museum: Museum) -> None:
    before = look(museum)
    assert (before.stale, before.making, before.proofs) == (True, False, [])
    say(museum, Paragraph(text='Dear @{first_name else "friend"},'), PATRONS)
    sheet = make(museum)
    assert (sheet.stale, sheet.people, sheet.missing) == (False, 5, None)
    shown = {what: one.name for one in sheet.proofs for what in one.shows}
    assert shown["no first name: the fallback"] == "Wren"
    assert shown['only for membership is "Patron"'] == "Ada Thwaite-Gray"
    assert shown["a name in Greek"] == "Ζωή Καλλέργη"
    assert shown['for everybody but membership is "Patron"'] != "Ada Thwaite-Gray"
    assert len(shown) == sheet.ways
    assert "Bring two guests." in next(one.html for one in sheet.proofs if one.name == "Ada Thwaite-Gray")


def test_only_what_a_change_touches_must_be_seen_again(museum: Museum) -> None:
    say(museum, Paragraph(text='Dear @{first_name else "friend"},'), PATRONS)
    tick(museum, make(museum))
    done = look(museum)
    assert all(one.seen_at == NOW for one in done.proofs)
    count = museum.view().proofs
    assert count is not None
    assert (count.seen, count.of, count.stale) == (len(done.proofs), len(done.proofs), False)
    more = PATRONS.model_copy(
        update={"arms": (Arm(criteria='membership is "Patron"', blocks=(Paragraph(text="Bring three."),)),)}
    )
    say(museum, Paragraph(text='Dear @{first_name else "friend"},'), more)
    assert look(museum).stale
    sheet = make(museum)
    assert [one.name for one in sheet.proofs if one.seen_at is None] == ["Ada Thwaite-Gray"]
    checks = [check.message for check in museum.view().checks if check.stop == "proofs"]
    assert f"Nobody has found 1 of {len(sheet.proofs)} proofs right yet." in checks
    # Back as it was: what was read then is read.
    say(museum, Paragraph(text='Dear @{first_name else "friend"},'), PATRONS)
    assert all(one.seen_at for one in make(museum).proofs)


def test_a_tick_is_taken_back_and_given_once(museum: Museum) -> None:
    sheet = make(museum)
    tick(museum, sheet)
    tick(museum, sheet)
    tick(museum, sheet, right=False)
    assert [one.seen_at for one in look(museum).proofs] == [None] * len(sheet.proofs)
    with pytest.raises(NotFound):
        proofs.tick_proof(museum.database, SYSTEM, museum.campaign_id, 10**9, digest="ab", right=True, now=NOW)


def test_what_only_all_letters_tell_is_remarked(museum: Museum) -> None:
    say(museum, Paragraph(text='Pledge @{pledge else "—"}, until @{renews_on}, @{town else "here"}'))
    assert [one.message for one in make(museum).remarks] == []
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET own = own - 'pledge' WHERE contact_no IN ('M-01', 'M-02') RETURNING id")
        run_sql(
            tx,
            """UPDATE contact SET own = own || '{"renews_on": "2026-11-22"}' WHERE contact_no = 'M-03' RETURNING id""",
        )
    assert [one.message for one in make(museum).remarks] == [
        "3 of 5 people read the fallback for pledge. What so many read is better written for them.",
        "Renews on is a day that is past for 1 of 5 people. Is it meant?",
    ]


def test_a_letter_of_a_day_stays_that_of_the_day_on_which_the_sheet_was_made(museum: Museum) -> None:
    say(museum, Paragraph(text="Written on @{today}, at @{now}"))
    tick(museum, make(museum))
    later = proofs.get_proofs(
        museum.database, SYSTEM, museum.campaign_id, keyring=KEYRING, now=NOW + timedelta(days=3, hours=2)
    )
    assert not later.stale
    assert all(one.seen_at for one in later.proofs)


def test_a_sheet_is_stale_when_a_person_in_it_or_the_look_of_letters_changed(museum: Museum) -> None:
    say(museum, Paragraph(text='Dear @{first_name else "friend"}'))
    tick(museum, make(museum))
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET first_name = 'Adelaide' WHERE first_name IS NOT NULL RETURNING id")
    assert look(museum).stale
    tick(museum, make(museum))
    assert not look(museum).stale
    save_look(museum.database, SYSTEM, Look(accent="#8a2440"), revision=1)
    assert look(museum).stale
    count = museum.view().proofs
    assert count is not None
    assert count.stale


def test_without_words_or_people_it_is_said_what_is_missing(museum: Museum) -> None:
    say(museum, Paragraph(text="Dear @{frist_name}"))
    sheet = make(museum)
    assert sheet.missing is not None
    assert sheet.missing.startswith("Mend the words first: There is no field “frist_name”")
    museum.change(message_id=None)
    assert make(museum).missing == "Choose the message first."


def test_a_sheet_that_is_being_made_is_made_once_and_one_whose_process_died_is_begun_again(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        assert store.begin_sheet(tx, museum.campaign_id, "x", NOW)
        assert not store.begin_sheet(tx, museum.campaign_id, "x", NOW + store.SILENT)
        assert store.begin_sheet(tx, museum.campaign_id, "x", NOW + store.SILENT * 2)
        # Another one takes its place, and the first is not wanted any more.
        assert store.begin_sheet(tx, museum.campaign_id, "y", NOW)
        assert not store.put_progress(tx, museum.campaign_id, "x", done=1, total=2, now=NOW)
        assert store.put_progress(tx, museum.campaign_id, "y", done=1, total=2, now=NOW)
    assert look(museum).making
