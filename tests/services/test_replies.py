"""What came back, in groups, and what is done about replies."""

from datetime import timedelta
from email import message_from_bytes, policy

import pytest

from tests.support.museum import NOW, Museum
from tests.support.post import ADA, WALKS, Post, complaint, failure, letter
from uvarovite.core.accounts import SYSTEM, Actor, ActorKind, Role, permissions_of
from uvarovite.core.responses.groups import ResponseGroup
from uvarovite.services.accounts.users import close_account, create_user
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.services.responses import answering, forwarding, listing, replies
from uvarovite.services.responses.inbound import RAW_KEPT, let_go_of_raw
from uvarovite.store.database import change_sql, run_sql

LATER = NOW + timedelta(hours=2)
ASKED = "Message-ID: <one@slatepost.example>\nReferences: <root@skarnmuseum.example>\n"


@pytest.fixture
def post(museum: Museum) -> Post:
    return Post(museum)


def someone(museum: Museum, name: str = "Tomas Vale") -> Actor:
    email = f"{name.split()[0].lower()}@skarnmuseum.example"
    user = create_user(
        museum.database, SYSTEM, email=email, name=name, password="lantern-in-the-adit", now=NOW, role=Role.AUTHOR
    )
    return Actor(kind=ActorKind.USER, name=name, user_id=user, permissions=permissions_of(Role.AUTHOR))


def counts(museum: Museum) -> dict[str, int]:
    view = listing.responses_view(museum.database, SYSTEM, LATER)
    return {group.value: n for group, n in view.counts.items() if n}


def names(museum: Museum, group: ResponseGroup) -> list[str | None]:
    lines = listing.response_lines(museum.database, SYSTEM, group, before=None, now=LATER)
    return [one.name or one.address for one in lines]


def test_each_message_stands_in_the_groups_it_belongs_to(post: Post) -> None:
    museum = post.museum
    post.writes(
        letter("Could you keep a third place?", about=f"<{post.run_id}.{post.delivery()}.field_walks@{post.domain}>")
    )
    post.writes(letter("Who are you?", sender="Stranger <stranger@quartzmail.example>"))
    post.comes(failure(""), to=post.back_to())
    post.comes(failure("", status="4.2.2", address="benoit@slatepost.example"), to=post.back_to("M-02"))
    post.comes(complaint(post.original("M-03", link=True)))
    post.writes(letter("I am away until Monday.", subject="Automatic reply: walks"))
    post.writes(letter("unsubscribe", sender="nobody@quartzmail.example"))
    post.comes(failure("", address="nobody@slatepost.example"))
    assert counts(museum) == {
        "waiting": 2, "replies": 2, "asks": 1, "gone": 1, "bounced": 1, "complained": 1, "away": 1, "unmatched": 1,
    }  # fmt: skip
    assert names(museum, ResponseGroup.WAITING) == ["Stranger", "Ada Thwaite-Gray"]
    post.writes(letter("unsubscribe", subject="walks"))
    assert names(museum, ResponseGroup.LEFT) == ["Ada Thwaite-Gray"]
    left = listing.response_lines(museum.database, SYSTEM, ResponseGroup.LEFT, before=None, now=LATER)[0]
    assert (left.words, left.delivery_id) == ("left Field walks by mail", post.delivery())
    # What is old goes from the groups, but whoever waits for an answer waits.
    view = listing.responses_view(museum.database, SYSTEM, LATER + timedelta(days=40))
    assert {group.value: n for group, n in view.counts.items() if n} == {"waiting": 2}


def test_a_page_goes_on_where_the_one_before_it_ended(post: Post, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(listing, "PAGE", 2)
    for number in range(5):
        post.writes(letter(f"Letter {number}."))
    seen: list[str] = []
    before: int | None = None
    while lines := listing.response_lines(
        post.museum.database, SYSTEM, ResponseGroup.WAITING, before=before, now=LATER
    ):
        seen += [one.words for one in lines]
        before = lines[-1].id
    assert seen == [f"Letter {number}." for number in (4, 3, 2, 1, 0)]


def test_a_reply_is_assigned_noted_and_done_once_and_comes_back(post: Post) -> None:
    museum, tomas = post.museum, someone(post.museum)
    mail = post.writes(letter("Is it open to a wheelchair?"))
    for _ in range(2):
        replies.assign(museum.database, tomas, mail, tomas.user_id, now=LATER)
        replies.set_done(museum.database, tomas, mail, True, now=LATER)
    replies.add_note(museum.database, tomas, mail, " Asked Hugh. ", now=LATER)
    assert counts(museum) == {"replies": 1}
    replies.set_done(museum.database, tomas, mail, False, now=LATER)
    view = replies.mail_view(museum.database, SYSTEM, mail)
    assert [(one.by, one.act, one.text) for one in view.entries] == [
        ("Tomas Vale", "assigned", "Tomas Vale"), ("Tomas Vale", "done", ""),
        ("Tomas Vale", "note", "Asked Hugh."), ("Tomas Vale", "reopened", ""),
    ]  # fmt: skip
    assert counts(museum) == {"replies": 1, "waiting": 1}
    for wrong in (" ", "x" * 2_001):
        with pytest.raises(BadInput):
            replies.add_note(museum.database, tomas, mail, wrong, now=LATER)
    close_account(museum.database, SYSTEM, tomas.user_id or 0, now=LATER)
    with pytest.raises(BadInput, match="no account"):
        replies.assign(museum.database, SYSTEM, mail, tomas.user_id, now=LATER)
    with pytest.raises(NotFound):
        replies.set_done(museum.database, SYSTEM, mail + 1, True, now=LATER)


def test_an_answer_goes_to_whoever_wrote_in_their_thread_and_is_noted(post: Post) -> None:
    museum, tomas = post.museum, someone(post.museum)
    raw = ASKED + letter(
        "Could you keep a third place?\n\n> Dear Ada,\n> two walks are open.", sender=f"Źródłowska <{ADA}>"
    )
    mail = post.writes(raw)
    prepared = answering.prepare_answer(museum.database, tomas, mail, "Yes, gladly.", answer_id="ab12", now=LATER)
    sent = message_from_bytes(prepared.raw, policy=policy.default)
    assert (prepared.from_address, prepared.to_address) == (WALKS, ADA)
    assert (sent["subject"], sent["in-reply-to"]) == ("Re: walks", "<one@slatepost.example>")
    assert sent["references"] == "<root@skarnmuseum.example> <one@slatepost.example>"
    assert sent.get_content().splitlines() == ["Yes, gladly.", "", "> Could you keep a third place?"]
    answering.note_answer(museum.database, tomas, mail, "Yes, gladly.", ADA, now=LATER)
    view = replies.mail_view(museum.database, SYSTEM, mail)
    assert [one.act for one in view.entries] == ["answered", "done"]
    assert (view.words, view.quoted.splitlines()) == (
        "Could you keep a third place?", ["> Dear Ada,", "> two walks are open."],
    )  # fmt: skip
    assert view.mailto is not None
    assert view.mailto.startswith("mailto:ada@slatepost.example?subject=Re%3A%20walks&in-reply-to=%3Cone%40slatepost")


def test_what_cannot_be_answered_is_said_and_nothing_is_sent(post: Post) -> None:
    museum, tomas = post.museum, someone(post.museum)
    mail = post.writes(letter("Hello."))
    report = post.comes(failure(""), to=post.back_to()).id or 0
    for number, words in ((mail, " "), (mail, "x" * 5_001), (report, "Hello")):
        with pytest.raises(BadInput):
            answering.prepare_answer(museum.database, tomas, number, words, answer_id="ab12", now=LATER)
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE sender SET users = ARRAY[:other]::bigint[]", {"other": (tomas.user_id or 0) + 1})
    with pytest.raises(ServiceRefusal, match="others’ to send"):
        answering.prepare_answer(museum.database, tomas, mail, "Hello", answer_id="ab12", now=LATER)


def test_once_it_is_let_go_of_the_words_stay_and_can_be_answered(post: Post) -> None:
    museum = post.museum
    mail = post.writes(letter("Thank you for the map.\n\n> the map"))
    let_go_of_raw(museum.database, NOW + RAW_KEPT + timedelta(days=1))
    view = replies.mail_view(museum.database, SYSTEM, mail)
    assert (view.words, view.quoted, view.kept_as_it_came, view.answer_to) == ("Thank you for the map.", "", False, ADA)
    with pytest.raises(NotFound):
        replies.mail_as_it_came(museum.database, SYSTEM, mail)


def test_a_reply_to_a_sender_with_a_reply_to_is_forwarded_once_and_given_up_in_the_end(post: Post) -> None:
    museum = post.museum
    with museum.database.transaction() as tx:
        change_sql(
            tx, "UPDATE sender SET reply_to = 'signe@skarnmuseum.example' WHERE address = :walks", {"walks": WALKS}
        )
    raw = letter("Could you keep a third place?")
    mail = post.writes(raw)
    # What went to the reply-to itself has arrived already; a machine's is nobody's to read.
    post.writes(letter("To you."), to="signe@skarnmuseum.example")
    post.writes(letter("I am away.", subject="Out of office"))
    forward = forwarding.next_forward(museum.database, forward_id="f1", now=LATER)
    assert forward is not None
    assert forwarding.next_forward(museum.database, forward_id="f2", now=LATER) is None
    sent = message_from_bytes(forward.mail.raw, policy=policy.default)
    assert (forward.mail.to_address, sent["reply-to"], sent["subject"]) == (
        "signe@skarnmuseum.example",
        ADA,
        "Fwd: walks",
    )
    attached = next(sent.iter_attachments())
    assert attached.get_content() == raw.encode()
    # Where it comes back to us, it is a machine's, and goes no further.
    assert post.comes(forward.mail.raw.decode(), sender=WALKS).kind == "automatic"
    forwarding.note_forward(museum.database, forward, accepted=False, words="421 later", now=LATER)
    assert replies.mail_view(museum.database, SYSTEM, mail).entries == []
    at = LATER
    for number in range(forwarding.MOST_TRIES - 1):
        at += timedelta(minutes=11)
        forward = forwarding.next_forward(museum.database, forward_id=f"g{number}", now=at)
        assert forward is not None
        forwarding.note_forward(museum.database, forward, accepted=False, words="421 later", now=at)
    assert forwarding.next_forward(museum.database, forward_id="h", now=at + timedelta(days=1)) is None
    assert [(one.act, one.text) for one in replies.mail_view(museum.database, SYSTEM, mail).entries] == [
        ("not_forwarded", "421 later")
    ]


def test_nothing_of_a_reply_outlives_its_message(post: Post) -> None:
    mail = post.writes(letter("Hello."))
    replies.add_note(post.museum.database, SYSTEM, mail, "about Ada", now=LATER)
    with post.museum.database.transaction() as tx:
        change_sql(tx, "DELETE FROM inbound_mail WHERE id = :id", {"id": mail})
        assert run_sql(tx, "SELECT FROM reply_entry") == []
