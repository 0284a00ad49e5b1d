"""The preference page: a form without a script, by which somebody changes what they get, at once and everywhere."""

import re
from dataclasses import replace
from datetime import datetime, timedelta
from html import unescape
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import HASHER, KEYRING, NOW, Museum
from tests.support.web import TestClock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import ConsentEventKind, ConsentEvidence, SuppressionReason
from uvarovite.core.messages import Tracked
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.public.words import PAGE_WORDS
from uvarovite.services.consent.by_hand import record_by_hand
from uvarovite.services.contacts.people import person
from uvarovite.services.delivery.traces import trace
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.readers import change_readers, readers
from uvarovite.services.selection.bulk import Selection, erase
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import change_sql, run_sql

ADA = "ada@slatepost.example"


class Page:
    """Somebody's preference page, filled in as a browser without scripts would."""

    def __init__(self, client: TestClient, museum: Museum, run_id: int, contact_no: str = "M-01") -> None:
        self.client, self.museum, self.run_id = client, museum, run_id
        self.delivery = museum.delivery_id(run_id, contact_no)
        self.token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=self.delivery), KEYRING)
        self.url = f"/u/{self.token}/preferences"
        self.html = client.get(self.url).text

    def fields(self) -> list[tuple[str, str]]:
        # What takes back what was just saved is a form of its own before it.
        html = self.html[self.html.rindex("<form") :]
        found = re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', html)
        found += re.findall(r'<input type="(?:checkbox|radio)" name="(\w+)" value="(\w*)" checked', html)
        found += re.findall(r'<input type="(?:text|date)" name="(\w+)" value="([^"]*)"', html)
        for name, options in re.findall(r'<select name="(\w+)">(.*?)</select>', html, re.DOTALL):
            found += [(name, one) for one in re.findall(r'<option value="([^"]*)"[^>]* selected', options)]
        return [(name, unescape(value)) for name, value in found]

    def save(self, *more: tuple[str, str], without: tuple[str, ...] = (), button: str = "save") -> str:
        told = [(name, value) for name, value in self.fields() if name not in without]
        answer = self.client.post(self.url, data=_form([*told, *more, (button, "yes")]))
        assert answer.status_code == 200
        self.html = answer.text
        return self.html


def _form(pairs: list[tuple[str, str]]) -> dict[str, list[str]]:
    form: dict[str, list[str]] = {}
    for name, value in pairs:
        form.setdefault(name, []).append(value)
    return form


def standing(museum: Museum, contact_no: str = "M-01") -> dict[str, str | None]:
    with museum.database.transaction() as tx:
        rows = run_sql(
            tx,
            """SELECT key, state FROM topic LEFT JOIN consent ON topic_id = topic.id
                AND contact_id = (SELECT id FROM contact WHERE contact_no = :no)""",
            {"no": contact_no},
        )
    return {row.key: row.state for row in rows}


def held(museum: Museum, contact_no: str = "M-01") -> list[tuple[str | None, str | None]]:
    with museum.database.transaction() as tx:
        rows = run_sql(
            tx,
            """SELECT held_gate, held_reason FROM delivery JOIN contact ON contact.id = contact_id
                WHERE contact_no = :no AND delivery.state = 'held'""",
            {"no": contact_no},
        )
    return [(row.held_gate, row.held_reason) for row in rows]


def own_limits(museum: Museum, now: datetime) -> int:
    """How many the gate of own limits holds."""
    told = museum.view(now).clearance
    assert told is not None
    return next((gate.held for gate in told.gates if gate.key == "own_limit"), 0)


@pytest.fixture
def run_id(museum: Museum) -> int:
    """A run of which nothing has gone out yet."""
    return museum.release(NOW)


@pytest.fixture
def ada(client: TestClient, museum: Museum, run_id: int) -> Page:
    return Page(client, museum, run_id)


def topic_id(museum: Museum, key: str) -> str:
    with museum.database.transaction() as tx:
        return str(run_sql(tx, "SELECT id FROM topic WHERE key = :key", {"key": key})[0].id)


def test_looking_changes_nothing_and_neither_does_saving_what_stands_there(ada: Page) -> None:
    before = standing(ada.museum)
    assert ADA in ada.html
    assert "Saved" not in ada.html
    assert "Saved" in ada.save()
    assert (standing(ada.museum), held(ada.museum)) == (before, [])
    with ada.museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT FROM response_event") == []
        assert run_sql(tx, "SELECT FROM contact_change") == []


def test_a_topic_goes_off_at_once_in_runs_under_way_and_on_again_by_their_own_word(ada: Page) -> None:
    walks = topic_id(ada.museum, "field_walks")
    ada.save(("why", "Too many, & <b>loud</b>"), without=("topic",))
    assert standing(ada.museum)["field_walks"] == "left"
    assert held(ada.museum) == [("consent", "left")]
    with ada.museum.database.transaction() as tx:
        evidence = run_sql(tx, "SELECT channel, evidence FROM consent_event ORDER BY id DESC LIMIT 1")[0]
    assert evidence.channel == "preferences"
    assert evidence.evidence["why"] == "Too many, & <b>loud</b>"
    assert evidence.evidence["delivery"] == ada.delivery
    steps = [one.words for one in trace(ada.museum.database, SYSTEM, ada.delivery).steps]
    assert "left the topic on their preference page" in steps
    ada.save(("topic", walks))
    assert standing(ada.museum)["field_walks"] == "subscribed"
    with ada.museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT FROM address_closing WHERE address_folded = :ada", {"ada": ADA}) == []


def test_a_tab_that_was_opened_earlier_overwrites_nothing(
    client: TestClient, museum: Museum, run_id: int, ada: Page
) -> None:
    other = Page(client, museum, run_id)
    ada.save(without=("topic",))
    other.save(("first_name", "Adelaide"), without=("first_name",))
    assert standing(museum)["field_walks"] == "left"
    found = person(museum.database, SYSTEM, museum.contact_id("M-01"), now=NOW)
    assert "Adelaide" in str(found)


def test_leaving_everything_suppresses_and_only_they_come_back(ada: Page) -> None:
    ada.save(button="leave_all")
    with ada.museum.database.transaction() as tx:
        listed = run_sql(tx, "SELECT address_folded, reason FROM suppression WHERE lifted_at IS NULL")
    assert (ADA, "left_all") in [tuple(row) for row in listed]
    assert standing(ada.museum)["field_walks"] == "left"
    assert "checked" not in ada.html.split("</fieldset>")[0]
    ada.save(("topic", topic_id(ada.museum, "museum_news")))
    with ada.museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT FROM suppression WHERE lifted_at IS NULL AND reason = 'left_all'") == []
    assert (standing(ada.museum)["field_walks"], standing(ada.museum)["museum_news"]) == ("left", "subscribed")


@pytest.mark.parametrize("reason", [one for one in SuppressionReason if one is not SuppressionReason.ERASED])
def test_what_the_organisation_closed_by_hand_stays_closed_and_nothing_else_does(
    ada: Page, reason: SuppressionReason
) -> None:
    with ada.museum.database.transaction() as tx:
        suppress(tx, reason=reason, evidence=ConsentEvidence(why="test"), at=NOW, address_folded=ADA)
    page = Page(ada.client, ada.museum, ada.run_id)
    walks = topic_id(ada.museum, "field_walks")
    assert ("topic", walks) not in page.fields()
    page.save(("topic", walks))
    with ada.museum.database.transaction() as tx:
        listed = run_sql(
            tx, "SELECT FROM suppression WHERE lifted_at IS NULL AND reason = :reason", {"reason": reason.value}
        )
    assert bool(list(listed)) == (reason is SuppressionReason.BY_HAND)


def test_a_pause_holds_what_waits_and_ends_when_they_say_so(ada: Page, clock: TestClock) -> None:
    until = NOW + timedelta(days=30)
    html = ada.save(("pause", "yes"))
    assert f"Paused until {until:%d/%m/%Y}" in html
    assert held(ada.museum) == [("consent", "paused")]
    ada.save(("resume", "yes"))
    with ada.museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT FROM consent WHERE paused_until IS NOT NULL") == []


def test_fewer_mails_hold_what_waits_and_are_a_gate(ada: Page, clock: TestClock) -> None:
    museum = ada.museum
    with museum.database.transaction() as tx:
        change_sql(
            tx,
            """INSERT INTO sent_mail (run_id, contact_id, at, accepted, address_folded)
                SELECT run_id, contact_id, :at, true, address_folded FROM delivery WHERE id = :id""",
            {"at": NOW - timedelta(days=8), "id": ada.delivery},
        )
    # Eight days ago: within a month, not within a week.
    ada.save(("at_most", "week"), without=("at_most",))
    assert held(museum) == []
    ada.save(("at_most", "month"), without=("at_most",))
    assert held(museum) == [("own_limit", "month")]
    assert own_limits(museum, NOW + timedelta(days=1)) == 1
    assert own_limits(museum, NOW + timedelta(days=23)) == 0
    ada.save(("at_most", ""), without=("at_most",))
    assert own_limits(museum, NOW + timedelta(days=1)) == 0


def test_a_button_that_is_pressed_twice_does_it_once(ada: Page) -> None:
    for button, more in (("save", (("pause", "yes"),)), ("leave_all", ())):
        fields = _form([*ada.fields(), *more, (button, "yes")])
        for _ in range(2):
            assert ada.client.post(ada.url, data=fields).status_code == 200
    with ada.museum.database.transaction() as tx:
        kinds = [
            row.kind for row in run_sql(tx, "SELECT kind FROM consent_event WHERE channel = 'preferences' ORDER BY id")
        ]
        left = run_sql(tx, "SELECT FROM response_event WHERE kind = 'left'")
    topics = len([name for name, _ in ada.fields() if name == "topic_was"])
    assert kinds == ["paused"] * topics + ["withdrawn"] * topics
    assert len(left) == 1


def test_the_page_speaks_each_language_and_changes_to_it(ada: Page) -> None:
    for code, words in PAGE_WORDS.items():
        html = ada.save(("language", code), without=("language",))
        assert f'<html lang="{code}" dir="{words.direction}">' in html
        assert words.save in html
    assert set(PAGE_WORDS) >= {"en", "de", "fr", "pl"}


def test_leaving_is_taken_back_from_the_page_that_says_it_and_the_reason_is_kept(ada: Page) -> None:
    client, url = ada.client, f"/u/{ada.token}"
    done = client.post(url, data={"leave": "yes", "why": "moved away"})
    assert "You have left “Field walks”." in done.text
    assert 'name="stay"' in done.text
    with ada.museum.database.transaction() as tx:
        evidence = run_sql(tx, "SELECT evidence FROM consent_event ORDER BY id DESC LIMIT 1")[0].evidence
    assert (evidence["why"], evidence["wording"]) == ("moved away", "Leave “Field walks”")
    for _ in range(2):
        assert "You still get “Field walks”." in client.post(url, data={"stay": "yes"}).text
    assert standing(ada.museum)["field_walks"] == "subscribed"
    with ada.museum.database.transaction() as tx:
        kinds = [row.kind for row in run_sql(tx, "SELECT kind FROM consent_event WHERE channel <> 'file' ORDER BY id")]
    assert kinds[-2:] == ["withdrawn", "confirmed"]


def test_nobody_changes_anything_without_a_token_of_theirs(ada: Page, museum: Museum) -> None:
    client = ada.client
    click = sign_token(Token(purpose=Purpose.CLICK, delivery_id=ada.delivery, number=1), KEYRING)
    for token in (ada.token[:-1], ada.token[:-2] + "AA", click, "x" * 38):
        for path in (f"/u/{token}", f"/u/{token}/preferences"):
            assert client.get(path).status_code == 404
            answer = client.post(path, data={"save": "yes", "leave": "yes", "stay": "yes", "leave_all": "yes"})
            assert answer.status_code == 404
    assert client.post(ada.url, content=b"save=1&why=" + b"x" * 20_000).status_code in (401, 404)
    assert client.post(ada.url, content=b"nothing").status_code == 404
    assert standing(museum)["field_walks"] == "subscribed"


def test_whoever_was_erased_has_no_preferences_but_can_leave(ada: Page, museum: Museum) -> None:
    her = Selection(ids=(museum.contact_id("M-01"),), seen=1)
    erase(museum.database, SYSTEM, her, hasher=HASHER, now=NOW)
    assert ada.client.get(ada.url).status_code == 404
    page = ada.client.get(f"/u/{ada.token}")
    assert page.status_code == 200
    assert "preferences" not in page.text


def test_what_they_said_by_hand_shows_on_their_page(client: TestClient, museum: Museum, run_id: int) -> None:
    record_by_hand(
        museum.database,
        SYSTEM,
        contact_no="M-02",
        topic="museum_news",
        kind=ConsentEventKind.GRANTED,
        at=NOW,
        wording="said",
    )
    page = Page(client, museum, run_id, "M-02")
    assert ("topic", topic_id(museum, "museum_news")) in page.fields()


def offers(museum: Museum, **changed: Any) -> None:
    settings = readers(museum.database, SYSTEM).settings
    change_readers(museum.database, SYSTEM, replace(settings, **changed))


def test_what_the_organisation_chose_can_be_corrected_and_nothing_else(
    client: TestClient, museum: Museum, run_id: int
) -> None:
    offers(museum, fields=["town", "membership", "renews_on", "volunteer"])
    ada = Page(client, museum, run_id)
    stands = dict(ada.fields())
    assert (stands["own_town"], stands["own_membership"], stands["own_renews_on"]) == ("Skarn", "Patron", "2026-12-01")
    without = ("own_town", "own_membership", "own_renews_on", "own_volunteer")
    ada.save(
        ("own_town", "Brèccia"), ("own_membership", "No such rank"), ("own_renews_on", "2027-01-31"),
        ("own_volunteer", ""), ("own_pledge", "1.00"), ("own_pledge_was", "750.50"), ("own_x", "1"), ("own_x_was", ""),
        without=without,
    )  # fmt: skip
    known = person(museum.database, SYSTEM, museum.contact_id("M-01"), now=NOW)
    values = known.record
    assert (values["town"], values["membership"], values["renews_on"]) == ("Brèccia", "Patron", "2027-01-31")
    assert values.get("volunteer") is None
    assert "750.5" in str(values["pledge"])
    assert known.history[0].by is None
    offers(museum, fields=[])
    assert "own_town" not in client.get(ada.url).text
    # A tab that was opened before changes nothing any more.
    ada.save(("own_town", "Skarn"), without=("own_town",))
    with museum.database.transaction() as tx:
        town = run_sql(tx, "SELECT own->>'town' AS town FROM contact WHERE contact_no = 'M-01'")[0].town
    assert town == "Brèccia"


@pytest.mark.parametrize("value", ["Upper\nGossan", "x" * 201])
def test_what_a_line_cannot_hold_is_not_changed_by_looking_at_it(
    client: TestClient, museum: Museum, run_id: int, value: str
) -> None:
    offers(museum, fields=["town"])
    with museum.database.transaction() as tx:
        sql = (
            "UPDATE contact SET own = own || jsonb_build_object('town', CAST(:town AS text)) WHERE contact_no = 'M-01'"
        )
        change_sql(tx, sql, {"town": value})
    ada = Page(client, museum, run_id)
    assert "own_town" not in ada.html
    ada.save(("own_town", "Skarn"), ("own_town_was", "Upper Gossan"))
    assert person(museum.database, SYSTEM, museum.contact_id("M-01"), now=NOW).record["town"] == value


def test_only_what_there_is_can_be_offered(museum: Museum) -> None:
    for changed in ({"fields": ["pledge"]}, {"fields": ["first_name"]}, {"fields": ["x"]}, {"inner_topics": [99]}):
        with pytest.raises(BadInput):
            offers(museum, **changed)


def test_a_topic_that_not_everybody_is_offered_is_seen_by_who_gets_it_or_has_just_left_it(
    client: TestClient, museum: Museum, run_id: int
) -> None:
    news, walks = topic_id(museum, "museum_news"), topic_id(museum, "field_walks")
    offers(museum, inner_topics=[int(news), int(walks)])
    ada = Page(client, museum, run_id)
    assert "Museum news" not in ada.html
    assert "Membership" in ada.html
    ada.save(without=("topic",))
    # What they left by this message can be taken back here; one that they never saw cannot be had by a forged form.
    assert "Field walks" in ada.html
    ada.save(("topic", walks), ("topic", news))
    assert standing(museum)["field_walks"] == "subscribed"
    assert standing(museum)["museum_news"] is None


def test_they_say_how_much_is_noted_and_words_without_a_deed_are_kept_once(ada: Page, museum: Museum) -> None:
    ada.save(("noted", "off"), without=("noted",))
    her = museum.contact_id("M-01")
    assert person(museum.database, SYSTEM, her, now=NOW).wish is Tracked.OFF
    assert ("noted", "off") in ada.fields()
    ada.save(("noted", "sideways"), without=("noted",))
    assert person(museum.database, SYSTEM, her, now=NOW).wish is Tracked.OFF
    for _ in range(2):
        ada.save(("why", "I like the pictures"))
    notes = [note.text for note in person(museum.database, SYSTEM, her, now=NOW).notes]
    assert notes == ["On their preference page: I like the pictures"]
    ada.save(("noted", "by_person"), without=("noted",))
    assert person(museum.database, SYSTEM, her, now=NOW).wish is None


def undo(page: Page) -> None:
    """Press the button that takes back what was just saved."""
    form = page.html[page.html.index("<form") : page.html.index("</form>")]
    assert "Undo" in form or "Rückgängig" in form
    pairs = re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)">', form)
    told = _form([*((name, unescape(value)) for name, value in pairs), ("save", "yes")])
    page.html = page.client.post(page.url, data=told).text


def test_what_was_saved_is_undone_at_a_press_whatever_it_was(client: TestClient, museum: Museum, run_id: int) -> None:
    offers(museum, fields=["town"])
    ada = Page(client, museum, run_id)
    begun = sorted(ada.fields())
    assert "Undo" not in ada.html
    ada.save(
        ("topic", topic_id(museum, "schools")), ("at_most", "week"), ("noted", "counted"), ("language", "de"),
        ("first_name", "Ottoline"), ("own_town", "Breccia"),
        without=("topic", "at_most", "noted", "language", "first_name", "own_town"),
    )  # fmt: skip
    assert sorted(ada.fields()) != begun
    undo(ada)
    ada.html = client.get(ada.url).text
    # The school's topic is one that they left now, and not one that they were never asked about: off in either case.
    assert sorted(ada.fields()) == begun
    for button, more in (("leave_all", ()), ("save", (("pause", "yes"),))):
        ada.save(*more, button=button)
        undo(ada)
        ada.html = client.get(ada.url).text
        assert sorted(ada.fields()) == begun
    ada.save()
    assert "Undo" not in ada.html
