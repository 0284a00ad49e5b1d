"""Signing up by a form: nobody is a contact before they confirm it from their mailbox, and nobody learns who is known."""

import re
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from email import message_from_bytes, policy
from email.message import EmailMessage
from html import unescape
from typing import Any
from urllib.parse import urlencode

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import HASHER, KEYRING, MESSAGE, NOW, PUBLIC_URL, Museum
from tests.support.web import TestClock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEvidence, SuppressionReason
from uvarovite.core.messages.attachments import MessagePdf
from uvarovite.core.responses.signing_up import LASTS, REMIND_AFTER, FormWords
from uvarovite.services.contacts.people import person
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.messages.messages import save_message
from uvarovite.services.responses import sign_up_mails, signing_up
from uvarovite.services.responses.sign_up_forms import FormChange, FormView, forms, save_form
from uvarovite.services.responses.signing_up import FORGOTTEN_AFTER, let_go_of_sign_ups
from uvarovite.services.responses.visits import Visit
from uvarovite.services.selection.bulk import Selection, erase
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import change_sql, run_sql

NEW = "ottoline@quartzmail.example"
ADA = "ada@slatepost.example"
WORDING = "I would like to hear of walks by e-mail."


class Desk:
    """A museum with a form, its visitors and their mailboxes."""

    def __init__(self, client: TestClient, museum: Museum, clock: TestClock) -> None:
        self.client, self.museum, self.clock = client, museum, clock
        with museum.database.transaction() as tx:
            self.topics = [row.id for row in run_sql(tx, "SELECT id FROM topic ORDER BY position LIMIT 2")]
            sender = run_sql(tx, "SELECT id FROM sender ORDER BY id LIMIT 1")[0].id
        self.change = FormChange(
            name="Web site", title="Walks by e-mail", intro="Once a month.\nNo more.", wording=WORDING, topics=self.topics[:1],
            asks=["first_name", "membership"], language="en", sender_id=sender, closed=False,
        )  # fmt: skip
        save_form(museum.database, SYSTEM, None, self.change, revision=None, now=NOW)

    @property
    def form(self) -> FormView:
        return forms(self.museum.database, SYSTEM, public_url="")[0]

    def shown(self) -> dict[str, Any]:
        """The hidden fields of the page, once somebody has read it for a while."""
        html = self.client.get(self.form.places[0].url).text
        self.clock.now += timedelta(seconds=20)
        return dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', html))

    def sends_in(self, address: str = NEW, **more: Any) -> Any:
        return self.client.post(self.form.places[0].url, data={**self.shown(), "address": address, **more})

    def mails(self) -> list[tuple[str, str, str]]:
        """(address, subject, path of the link) of every mail that is due, each taken by the relay."""
        told = []
        while True:
            now = self.clock.now
            ask = sign_up_mails.next_ask(self.museum.database, public_url="", keyring=KEYRING, now=now)
            if ask is None:
                return told
            sign_up_mails.note_ask(self.museum.database, ask, accepted=True, now=now)
            mail = message_from_bytes(ask.mail.raw, policy=policy.default)
            body = mail.get_body(("plain",))
            assert body is not None
            found = re.search(r"/c/[\w-]+", body.get_content())
            assert found is not None
            told.append((ask.mail.to_address, str(mail["subject"]), found[0]))

    def standing(self, address: str) -> list[tuple[str, str]]:
        """(topic, state) of every contact that has an address."""
        with self.museum.database.transaction() as tx:
            rows = run_sql(
                tx,
                """SELECT topic.key, state FROM contact JOIN consent ON contact_id = contact.id JOIN topic ON topic.id = topic_id
                    WHERE address_folded = :address AND deleted_at IS NULL ORDER BY contact.id, topic.position""",
                {"address": address},
            )
            return [(row.key, row.state) for row in rows]

    def waiting(self) -> int:
        with self.museum.database.transaction() as tx:
            return int(run_sql(tx, "SELECT count(*) AS n FROM sign_up")[0].n)


@pytest.fixture
def desk(client: TestClient, museum: Museum, clock: TestClock) -> Desk:
    return Desk(client, museum, clock)


def test_a_sign_up_becomes_a_contact_once_it_is_confirmed_with_its_evidence(desk: Desk) -> None:
    answer = desk.sends_in(field_first_name="Ottoline", field_membership="Patron")
    assert "Look into your mailbox" in answer.text
    assert desk.standing(NEW) == []
    ((to, subject, link),) = desk.mails()
    assert (to, subject) == (NEW, "Please confirm: Field walks")
    # A scanner follows the link, and confirms nothing.
    assert "Confirm Field walks?" in desk.client.get(link).text
    assert desk.standing(NEW) == []
    for _ in range(2):
        assert "Confirmed: Field walks." in desk.client.post(link).text
    assert desk.standing(NEW) == [("field_walks", "subscribed")]
    with desk.museum.database.transaction() as tx:
        contact = run_sql(tx, "SELECT * FROM contact WHERE address_folded = :a", {"a": NEW})[0]
        event = run_sql(tx, "SELECT * FROM consent_event ORDER BY id DESC LIMIT 1")[0]
    assert (contact.first_name, contact.own, contact.language) == ("Ottoline", {"membership": "Patron"}, "en")
    assert (event.kind, event.channel) == ("confirmed", "sign_up")
    assert event.evidence["wording"] == WORDING
    assert event.evidence["page"].startswith("/s/")
    assert event.evidence["origin"]
    assert "testclient" not in event.evidence["origin"]
    history = person(desk.museum.database, SYSTEM, contact.id, now=NOW).history
    assert "Signed up by the form “Web site”" in [one.what for one in history]
    assert (desk.form.seen, desk.form.sent, desk.form.confirmed) == (1, 1, 1)
    assert desk.mails() == []


def test_the_answer_is_the_same_whoever_it_is_and_machines_get_no_further(desk: Desk) -> None:
    told = {desk.sends_in(address).text for address in (NEW, ADA, "nobody@nowhere.example")}
    told.add(desk.sends_in("robot@quartzmail.example", website="https://spam.example").text)
    page = {**desk.shown(), "address": "fast@quartzmail.example"}
    desk.clock.now -= timedelta(seconds=20)
    told.add(desk.client.post(desk.form.places[0].url, data=page).text)
    told.add(desk.client.post(desk.form.places[0].url, data={**page, "shown": "forged"}).text)
    assert len(told) == 1
    assert desk.waiting() == 3


def test_whoever_is_known_is_not_made_again_and_keeps_what_is_known(desk: Desk) -> None:
    desk.sends_in(ADA, field_first_name="Somebody else")
    ((_, _, link),) = desk.mails()
    desk.client.post(link)
    with desk.museum.database.transaction() as tx:
        rows = run_sql(
            tx, "SELECT first_name FROM contact WHERE address_folded = :a AND deleted_at IS NULL", {"a": ADA}
        )
    # Two share the address: neither is changed, and nobody is added.
    assert sorted(row.first_name for row in rows) == ["Ada", "Gus"]
    assert ("field_walks", "subscribed") in desk.standing(ADA)


@pytest.mark.parametrize("reason", list(SuppressionReason))
def test_only_their_own_confirmation_brings_somebody_back(desk: Desk, reason: SuppressionReason) -> None:
    database = desk.museum.database
    if reason is SuppressionReason.ERASED:
        her = Selection(ids=(desk.museum.contact_id("M-01"),), seen=1)
        erase(database, SYSTEM, her, hasher=HASHER, now=NOW)
    else:
        with database.transaction() as tx:
            suppress(tx, reason=reason, evidence=ConsentEvidence(why="test"), at=NOW, address_folded=ADA)
    desk.sends_in(ADA)
    sent = desk.mails()
    # What the organisation closed by itself, nobody opens from outside.
    if reason is SuppressionReason.BY_HAND:
        assert sent == []
        return
    assert len(sent) == 1
    desk.client.post(sent[0][2])
    assert ("field_walks", "subscribed") in desk.standing(ADA)
    with database.transaction() as tx:
        listed = run_sql(
            tx, "SELECT FROM suppression WHERE lifted_at IS NULL AND reason = :reason", {"reason": reason.value}
        )
    assert list(listed) == []
    # And nobody makes us write again and again to somebody who wanted nothing.
    if reason is SuppressionReason.COMPLAINT:
        with database.transaction() as tx:
            suppress(tx, reason=reason, evidence=ConsentEvidence(why="test"), at=NOW, address_folded=ADA)
        desk.sends_in(ADA)
        assert desk.mails() == []


def test_a_form_that_is_sent_in_a_thousand_times_asks_nobody_more_than_thrice(desk: Desk, museum: Museum) -> None:
    shown, url = desk.shown(), desk.form.places[0].url
    statuses = set()
    for number in range(1_000):
        address = NEW if number % 2 else f"p{number}@quartzmail.example"
        statuses.add(desk.client.post(url, data={**shown, "address": address}).status_code)
        if number < 40:
            desk.mails()
    # The origin is turned away after a while, and told so.
    assert statuses == {200, 429}
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) AS n FROM sign_up WHERE address_folded = :a", {"a": NEW})[0].n == 1
        assert run_sql(tx, "SELECT count(*) AS n FROM sign_up")[0].n <= 30
    desk.clock.now += timedelta(hours=2)
    assert desk.sends_in(NEW).status_code == 200
    assert desk.mails() == []


def test_who_does_not_answer_is_reminded_once_and_forgotten_in_the_end(desk: Desk) -> None:
    desk.sends_in()
    assert [subject for _, subject, _ in desk.mails()] == ["Please confirm: Field walks"]
    desk.clock.now += REMIND_AFTER
    ((_, subject, link),) = desk.mails()
    assert subject == "Still to be confirmed: Field walks"
    desk.clock.now += LASTS
    assert desk.mails() == []
    assert "works no more" in desk.client.post(link).text
    assert desk.standing(NEW) == []
    assert [let_go_of_sign_ups(desk.museum.database, desk.clock.now + FORGOTTEN_AFTER) for _ in range(2)] == [1, 0]
    # Nothing is left of them but that somebody sent it in.
    with desk.museum.database.transaction() as tx:
        left = run_sql(tx, "SELECT address, field_texts, origin, agent, page FROM sign_up")[0]
    assert tuple(left) == ("", [], "", "", "")
    assert (desk.form.sent, desk.form.confirmed) == (1, 0)


def test_a_mail_that_cannot_be_sent_is_tried_again_and_given_up(desk: Desk) -> None:
    desk.sends_in()
    tries = 0
    for _ in range(20):
        ask = sign_up_mails.next_ask(desk.museum.database, public_url="", keyring=KEYRING, now=desk.clock.now)
        if ask is not None:
            tries += 1
            sign_up_mails.note_ask(desk.museum.database, ask, accepted=False, now=desk.clock.now)
        desk.clock.now += timedelta(minutes=6)
    assert tries == sign_up_mails.MOST_TRIES


def test_sent_in_twice_at_once_it_is_one_sign_up_and_one_mail(desk: Desk) -> None:
    page = {**desk.shown(), "address": NEW}
    visit = Visit(method="POST", agent="Firefox", origin="here")

    def send(_: int) -> object:
        return signing_up.send_in(
            desk.museum.database,
            desk.form.places[0].url[-12:],
            visit,
            urlencode(page).encode(),
            page="",
            accept=None,
            keyring=KEYRING,
            now=desk.clock.now,
        )

    with ThreadPoolExecutor(4) as many:
        assert all(many.map(send, range(3)))
    assert desk.waiting() == 1
    assert len(desk.mails()) == 1


def test_a_mail_waits_for_a_relay_however_long(desk: Desk) -> None:
    desk.sends_in()
    with desk.museum.database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET removed_at = :now", {"now": NOW})
    for _ in range(10):
        assert desk.mails() == []
        desk.clock.now += timedelta(minutes=6)
    with desk.museum.database.transaction() as tx:
        change_sql(tx, "UPDATE relay SET removed_at = NULL")
    assert len(desk.mails()) == 1


def test_the_same_form_stands_on_any_web_site_without_a_script(desk: Desk) -> None:
    save_form(
        desk.museum.database, SYSTEM, desk.form.id, replace(desk.change, topics=desk.topics, title='Say "yes" & <go>'),
        revision=desk.form.revision, now=NOW,
    )  # fmt: skip
    snippet = desk.form.places[0].snippet
    assert "<script" not in snippet
    assert "<go>" not in snippet
    names = re.findall(r'name="(\w+)"', snippet)
    assert names == ["language", "topic", "topic", "address", "field_first_name", "field_membership", "website"]
    action = unescape(re.findall(r'action="([^"]*)"', snippet)[0])
    told = {"topic": str(desk.topics[1]), "address": NEW, "website": ""}
    answer = desk.client.post(action, data=told, headers={"Referer": "https://valley.example/walks"})
    assert "Look into your mailbox" in answer.text
    ((_, _, link),) = desk.mails()
    desk.client.post(link)
    assert [key for key, _ in desk.standing(NEW)] == ["museum_news"]
    with desk.museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT evidence FROM consent_event ORDER BY id DESC LIMIT 1")[0].evidence["page"] == (
            "https://valley.example/walks"
        )


def test_what_is_wrong_or_hostile_is_said_and_goes_no_further(desk: Desk) -> None:
    for address in ("no address", "a@b", "x" * 300 + "@slatepost.example", f"{NEW}, {ADA}"):
        answer = desk.sends_in(address)
        assert answer.status_code == 422
        assert "name@domain.example" in answer.text
    assert desk.sends_in("ok@quartzmail.example\r\nBcc: x@y.example").status_code == 422
    assert desk.client.post(desk.form.places[0].url, content=b"\xff\xfe=1").status_code == 404
    assert desk.client.post(desk.form.places[0].url, content=b"address=" + b"a" * 20_000).status_code in (401, 404)
    assert desk.client.get(f"{desk.form.places[0].url}x").status_code == 404
    for token in ("x" * 38, "c"):
        assert (desk.client.get(f"/c/{token}").status_code, desk.client.post(f"/c/{token}").status_code) == (404, 404)
    # What was not asked for is not taken, and what is no value of its field neither.
    desk.sends_in(field_pledge="1000000", field_membership="King", field_first_name="<b>O</b>", topic="99999")
    ((_, _, link),) = desk.mails()
    desk.client.post(link)
    with desk.museum.database.transaction() as tx:
        contact = run_sql(tx, "SELECT first_name, own FROM contact WHERE address_folded = :a", {"a": NEW})[0]
    assert (contact.first_name, contact.own) == ("<b>O</b>", {})
    save_form(
        desk.museum.database,
        SYSTEM,
        desk.form.id,
        replace(desk.change, closed=True),
        revision=desk.form.revision,
        now=NOW,
    )
    assert desk.client.get(desk.form.places[0].url).status_code == 404
    assert desk.client.post(desk.form.places[0].url, data={"address": NEW}).status_code == 404


def test_a_form_is_set_up_with_care(desk: Desk) -> None:
    for wrong in (
        {"name": " "}, {"title": "x" * 200}, {"wording": "yes"}, {"topics": []}, {"topics": [999]}, {"asks": ["address"]},
        {"asks": ["adopted_specimens"]}, {"asks": ["nothing"]}, {"language": "tlh"}, {"sender_id": 999},
        {"welcome_message_id": 999}, {"others": [FormWords(language="de", title="", intro="", wording="Ja, gern.")]},
        {"others": [FormWords(language="tlh", title="Q", intro="", wording="Qapla")]},
    ):  # fmt: skip
        with pytest.raises(BadInput):
            save_form(desk.museum.database, SYSTEM, None, replace(desk.change, **wrong), revision=None, now=NOW)  # type: ignore[arg-type]
    with pytest.raises(Conflict):
        save_form(desk.museum.database, SYSTEM, desk.form.id, desk.change, revision=desk.form.revision + 1, now=NOW)
    assert desk.form.places[0].url.startswith(("/s/", PUBLIC_URL))
    assert (
        signing_up.form_page(desk.museum.database, "nothing", language=None, accept=None, keyring=KEYRING, now=NOW)
        is None
    )


GERMAN = FormWords(language="de", title="Wanderungen", intro="Einmal im Monat.", wording="Ich möchte davon hören.")


def change_form(desk: Desk, **changed: Any) -> None:
    change = replace(desk.change, **changed)
    save_form(desk.museum.database, SYSTEM, desk.form.id, change, revision=desk.form.revision, now=NOW)


@pytest.mark.parametrize(
    ("asked", "accept", "language"),
    [
        ("", None, "en"), ("", "de-AT,de;q=0.9,en;q=0.5", "de"), ("", "fr, pl;q=0.4", "en"), ("?language=de", "en", "de"),
        ("?language=tlh", "de", "de"), ("", "en;q=0.2, de;q=0.7", "de"), ("", "de;q=0, en", "en"), ("", ",;=q,*", "en"),
    ],
)  # fmt: skip
def test_a_form_speaks_the_language_of_whoever_reads_it(
    desk: Desk, asked: str, accept: str | None, language: str
) -> None:
    change_form(desk, others=[GERMAN])
    headers = {"Accept-Language": accept} if accept else {}
    html = desk.client.get(f"{desk.form.places[0].url}{asked}", headers=headers).text
    assert f'<html lang="{language}"' in html
    assert ("Ich möchte davon hören." in html, WORDING in html) == (language == "de", language == "en")


def test_what_was_sent_in_goes_on_in_the_language_it_was_read_in(desk: Desk) -> None:
    change_form(desk, others=[GERMAN])
    english, german = desk.form.places
    assert (english.language, german.language) == ("en", "de")
    assert "E-Mail-Adresse" in german.snippet
    assert "Ich möchte davon hören." in german.snippet
    action = re.findall(r'action="([^"]*)"', german.snippet)[0]
    hidden = dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', german.snippet))
    # The site that shows it is read by a browser in English.
    desk.client.post(action, data={**hidden, "address": NEW}, headers={"Accept-Language": "en"})
    ((_, subject, link),) = desk.mails()
    assert subject == "Bitte bestätigen: Field walks"
    assert '<html lang="de"' in desk.client.post(link).text
    with desk.museum.database.transaction() as tx:
        event = run_sql(tx, "SELECT evidence FROM consent_event ORDER BY id DESC LIMIT 1")[0]
        contact = run_sql(tx, "SELECT language FROM contact WHERE address_folded = :a", {"a": NEW})[0]
    assert (event.evidence["wording"], contact.language) == ("Ich möchte davon hören.", "de")


def confirmed(desk: Desk, **changed: Any) -> None:
    """Somebody signs up by a form that welcomes, and confirms."""
    change_form(desk, welcome_message_id=desk.museum.message_id, topics=desk.topics, **changed)
    desk.sends_in(topic=[str(one) for one in desk.topics], field_first_name="Ottoline")
    ((_, _, link),) = desk.mails()
    desk.client.post(link)


def welcome(desk: Desk) -> EmailMessage | None:
    ask = sign_up_mails.next_ask(desk.museum.database, public_url=PUBLIC_URL, keyring=KEYRING, now=desk.clock.now)
    if ask is None:
        return None
    assert ask.mail.to_address == NEW
    sign_up_mails.note_ask(desk.museum.database, ask, accepted=True, now=desk.clock.now)
    return message_from_bytes(ask.mail.raw, policy=policy.default)


def test_who_has_confirmed_is_welcomed_once_and_leaves_by_that_message_too(desk: Desk) -> None:
    confirmed(desk)
    mail = welcome(desk)
    assert mail is not None
    assert mail["Subject"] == "Ottoline, two walks are open"
    assert mail["List-Unsubscribe-Post"] == "List-Unsubscribe=One-Click"
    link = str(mail["List-Unsubscribe"]).strip("<>")
    body = mail.get_body(("html",))
    assert body is not None
    assert link in body.get_content()
    assert (welcome(desk), desk.form.welcomed) == (None, 1)
    path = link.removeprefix(PUBLIC_URL)
    page = desk.client.get(path).text
    assert "Leave “Field walks, Museum news”?" in page
    # What they get can be chosen from there, as from any other message.
    assert "Museum news" in desk.client.get(f"{path}/preferences").text
    answer = desk.client.post(path, data={"List-Unsubscribe": "One-Click"})
    assert (answer.status_code, answer.content) == (200, b"")
    assert desk.standing(NEW) == [("field_walks", "left"), ("museum_news", "left")]
    desk.client.post(path, data={"stay": "yes"})
    assert desk.standing(NEW) == [("field_walks", "subscribed"), ("museum_news", "subscribed")]
    desk.client.post(f"{path}/preferences", data={"leave_all": "yes"})
    with desk.museum.database.transaction() as tx:
        listed = run_sql(tx, "SELECT reason FROM suppression WHERE address_folded = :a", {"a": NEW})
    assert [row.reason for row in listed] == ["left_all"]
    # Once they are erased, their link is nobody's.
    with desk.museum.database.transaction() as tx:
        contact = run_sql(tx, "SELECT id FROM contact WHERE address_folded = :a", {"a": NEW})[0].id
    erase(desk.museum.database, SYSTEM, Selection(ids=(contact,), seen=1), hasher=HASHER, now=NOW)
    assert desk.client.get(path).status_code == 404


def test_a_letter_that_goes_along_with_the_welcome_is_whole(desk: Desk) -> None:
    with_letter = MESSAGE.model_copy(update={"attachments": (MessagePdf(id="a1", name="Letter.pdf", message_id=None),)})
    save_message(
        desk.museum.database,
        SYSTEM,
        message_id=desk.museum.message_id,
        name="Walks",
        content=with_letter,
        revision=1,
        now=NOW,
    )
    confirmed(desk)
    mail = welcome(desk)
    assert mail is not None
    (letter,) = mail.iter_attachments()
    assert letter.get_content().startswith(b"%PDF-")


def test_nobody_is_welcomed_who_has_left_and_a_message_that_must_be_mended_waits(desk: Desk) -> None:
    broken = MESSAGE.model_copy(update={"subject": "@{no_such_field}"})
    kept = save_message(
        desk.museum.database,
        SYSTEM,
        message_id=desk.museum.message_id,
        name="Walks",
        content=broken,
        revision=1,
        now=NOW,
    )
    confirmed(desk)
    assert desk.form.trouble is not None
    for _ in range(10):
        assert welcome(desk) is None
        desk.clock.now += timedelta(minutes=6)
    save_message(
        desk.museum.database,
        SYSTEM,
        message_id=desk.museum.message_id,
        name="Walks",
        content=MESSAGE,
        revision=kept.revision,
        now=NOW,
    )
    with desk.museum.database.transaction() as tx:
        suppress(tx, reason=SuppressionReason.COMPLAINT, evidence=ConsentEvidence(), at=NOW, address_folded=NEW)
    assert welcome(desk) is None
    desk.clock.now += timedelta(days=1)
    assert (welcome(desk), desk.form.welcomed, desk.form.trouble) == (None, 0, None)
