"""Mail that comes in: whom it is about, and what it does."""

from datetime import timedelta

import pytest

from tests.support.museum import HASHER, KEYRING, NOW, Museum
from tests.support.post import ADA, WALKS, Post, complaint, failure, letter
from tests.support.sending import send_all
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import TokenWriter, leave_address
from uvarovite.services.delivery.traces import trace
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.responses.inbound import MOST_TRIES, RAW_KEPT, act_on_next, is_ours, let_go_of_raw, take_in
from uvarovite.services.selection.bulk import Selection, erase
from uvarovite.store.database import run_sql
from uvarovite.store.tables import InboundMail


@pytest.fixture
def post(museum: Museum) -> Post:
    return Post(museum)


def test_a_hard_failure_that_carries_a_token_of_ours_suppresses_at_once(post: Post) -> None:
    for way, raw, to in (
        ("envelope", failure(""), post.back_to()),
        (
            "returned",
            failure(
                f"Return-Path: <{post.back_to('M-02')}>\n" + post.original("M-02"), address="benoit@slatepost.example"
            ),
            WALKS,
        ),
        ("link", failure(post.original("M-03", link=True, message_id=False), address="zoe@slatepost.example"), WALKS),
    ):
        found = post.comes(raw, to=to)
        assert (found.kind, found.matched_by, found.effect) == ("report", way, "suppressed")
    assert post.events() == [("M-01", "bounced"), ("M-02", "bounced"), ("M-03", "bounced")]
    assert set(post.listed().values()) == {"hard_bounce"}
    assert len(post.listed()) == 3
    steps = trace(post.museum.database, SYSTEM, post.delivery()).steps
    assert [(one.code, one.words) for one in steps if "bounced" in one.words] == [
        ("550 user unknown", "bounced: unknown address")
    ]
    view = dispatch_view(post.museum.database, SYSTEM, post.run_id, NOW + timedelta(hours=2))
    assert view.responses["bounced"] == 3


def test_what_anybody_could_have_written_suppresses_nobody(post: Post) -> None:
    # With a number that can be guessed, or with an address alone, it is noted, and counts a little.
    guessed = post.comes(failure(post.original()))
    assert (guessed.matched_by, guessed.effect) == ("message_id", "noted")
    alone = post.comes(failure("", address="benoit@slatepost.example"))
    assert (alone.matched_by, alone.effect) == ("address", "noted")
    # Somebody else's number, a forged token, another museum's, and an address that nothing was sent to.
    for raw, to in (
        (failure(post.original(), address="nobody@slatepost.example"), WALKS),
        (failure("", address="nobody@slatepost.example"), post.back_to().replace("return+", "return+a", 1)),
        (failure(post.original().replace(post.domain, "other.example"), address="nobody@slatepost.example"), WALKS),
        (failure("", address="nobody@slatepost.example"), WALKS),
    ):
        assert post.comes(raw, to=to).effect == "nobody"
    assert post.comes(complaint(post.original())).effect == "noted"
    assert post.listed() == {}
    assert post.comes(complaint(post.original("M-03", link=True))).effect == "suppressed"
    assert post.listed() == {"zoe@slatepost.example": "complaint"}


def test_softly_it_takes_three_messages_within_a_month_and_a_full_mailbox_never_counts(post: Post) -> None:
    for status in ("5.2.2", "4.2.2", "4.7.1", "5.7.1"):
        assert post.comes(failure("", status=status, said="later"), to=post.back_to()).effect == "noted"
    assert post.listed() == {}
    soft = {"status": "4.4.7", "said": "expired"}
    for n in range(5):
        # The same message, reported again and again, is one.
        assert post.comes(failure("", n=n, **soft), to=post.back_to()).effect == "noted"
    for run in range(2):
        post.museum.change(again="everybody", name=f"Walks {run}")
        post.run_id = post.museum.release(NOW + timedelta(hours=1))
        send_all(post.museum, post.run_id, NOW + timedelta(hours=1))
        effect = post.comes(failure("", **soft), to=post.back_to(), hours=2).effect
        assert effect == ("noted" if run == 0 else "suppressed")
    assert post.listed() == {ADA: "hard_bounce"}


def test_a_failure_of_an_address_that_it_was_sent_on_to_is_not_theirs(post: Post) -> None:
    found = post.comes(failure("", address="elsewhere@tinmail.example"), to=post.back_to())
    assert (found.matched_by, found.effect) == ("envelope", "noted")
    late = post.comes(
        failure("").replace("Action: failed", "Action: delayed").replace("5.1.1", "4.4.1"), to=post.back_to()
    )
    assert late.effect == "nothing"
    assert post.listed() == {}


def test_people_who_ask_by_mail_have_left_and_others_have_written(post: Post) -> None:
    about = f"<{post.run_id}.{post.delivery()}.field_walks@{post.domain}>"
    reply = post.comes(letter("I will come on Saturday.", about=about), sender=ADA)
    assert (reply.kind, reply.effect, reply.own) == ("reply", "noted", "I will come on Saturday.")
    away = post.comes(letter("I am away.", subject="Automatic reply: walks", about=about), sender=ADA)
    assert (away.kind, away.effect) == ("automatic", "nothing")
    # Somebody else cannot take Ada out.
    other = post.comes(
        letter("unsubscribe", sender="mallory@tinmail.example", about=about), sender="mallory@tinmail.example"
    )
    assert (other.kind, other.effect) == ("leave", "nobody")
    left = post.comes(letter("Please unsubscribe me.", about=about), sender=ADA)
    assert (left.kind, left.effect) == ("leave", "left")
    assert post.events() == [("M-01", "replied"), ("M-01", "left")]
    view = post.museum.view(NOW + timedelta(hours=3))
    assert view.clearance is not None
    with post.museum.database.transaction() as tx:
        told = run_sql(
            tx, "SELECT channel, evidence->>'wording' AS wording FROM consent_event ORDER BY id DESC LIMIT 1"
        )[0]
    assert (told.channel, told.wording) == ("mail", "Please unsubscribe me.")


def test_no_bytes_keep_a_message_from_being_kept(post: Post) -> None:
    long = "I remember the mill. " * 400
    found = post.comes(
        letter(long, subject="a\x00b", sender="\x00x@tinmail.example"), sender="\udcff\x00@x.example", to="\udcfe"
    )
    left = post.comes(letter("unsubscribe\x00", sender="zoe@slatepost.example"), sender="zoe@slatepost.example")
    assert (left.kind, left.effect) == ("leave", "left")
    assert (found.kind, found.own, found.subject) == ("reply", long.strip(), "a\N{REPLACEMENT CHARACTER}b")


def test_the_same_a_hundred_times_is_one_and_what_breaks_is_tried_a_few_times(
    post: Post, monkeypatch: pytest.MonkeyPatch
) -> None:
    raw = failure("", status="4.4.7")
    for _ in range(100):
        found = post.comes(raw, to=post.back_to())
    assert found.times == 100
    assert post.events() == [("M-01", "bounced")]
    monkeypatch.setattr("uvarovite.services.responses.inbound.classify_mail", lambda raw, sender: 1 / 0)
    number = take_in(post.museum.database, raw=b"x", sender=ADA, recipients=[WALKS], now=NOW)
    tries = 0
    while act_on_next(post.museum.database, keyring=KEYRING, now=NOW):
        tries += 1
    assert tries == MOST_TRIES
    with post.museum.database.transaction() as tx:
        broken = tx.get(InboundMail, number)
        assert broken is not None
        assert (broken.raw, broken.acted_at) == (b"x", None)


def test_what_came_is_let_go_of_after_a_while_and_with_whoever_is_erased(post: Post) -> None:
    mine = post.comes(letter("I will come."), sender=ADA)
    theirs = post.comes(letter("So will I.", sender="benoit@slatepost.example"), sender="benoit@slatepost.example")
    about = post.comes(
        f"From: x@tinmail.example\nSubject: List\nList-Id: <l.example>\n\nMembers: {ADA}\n", sender="x@tinmail.example"
    )
    assert about.effect == "nothing"
    who = Selection(ids=(post.museum.contact_id("M-01"),), seen=1)
    erase(post.museum.database, SYSTEM, who, hasher=HASHER, now=NOW + timedelta(days=1))
    with post.museum.database.transaction() as tx:
        assert [row.id for row in run_sql(tx, "SELECT id FROM inbound_mail")] == [theirs.id] != [mine.id]
    assert let_go_of_raw(post.museum.database, NOW + RAW_KEPT) == 0
    assert let_go_of_raw(post.museum.database, NOW + RAW_KEPT + timedelta(days=1)) == 1


def test_whoever_writes_to_the_address_for_leaving_has_left_whatever_they_write(post: Post) -> None:
    def to(contact_no: str, domain: str = "back.skarnmuseum.example") -> str:
        return leave_address(TokenWriter(KEYRING), post.delivery(contact_no), domain)

    assert is_ours(post.museum.database, to("M-01"), keyring=KEYRING)
    # A mail program may say that a machine wrote it, and a letter may say something else besides.
    machine = letter("", subject="unsubscribe").replace("Subject:", "Auto-Submitted: auto-generated\nSubject:")
    found = post.comes(machine, to=to("M-01"), sender=ADA)
    assert (found.kind, found.sign, found.matched_by, found.effect) == (
        "leave", "leaving_address", "leave_address", "left"
    )  # fmt: skip
    letters = letter("I liked the walk. Is the cafe open?", sender="Benoît <other@slatepost.example>")
    assert post.comes(letters, to=to("M-02").upper(), sender="other@slatepost.example").effect == "left"
    assert post.events() == [("M-01", "left"), ("M-02", "left")]
    # What could not be delivered has nobody behind it, and a forged address is nobody's.
    assert post.comes(failure(post.original("M-03")), to=to("M-03")).kind == "report"
    forged = to("M-03").replace("leave+", "leave+a", 1)
    assert not is_ours(post.museum.database, forged, keyring=KEYRING)
    stranger = letter("", sender="stranger@copperbox.example", subject="unsubscribe")
    assert post.comes(stranger, to=forged, sender="stranger@copperbox.example").effect == "nobody"
    assert ("M-03", "left") not in post.events()
