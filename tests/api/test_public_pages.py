"""The pages for recipients: a GET changes nothing, a click leads nowhere else, leaving works without a cookie."""

from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from tests.store.test_queue import OK, claim, kit_of, send
from tests.support.museum import KEYRING, NOW, SECRET, Museum
from tests.support.web import TestClock, web_client
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, derive_keyring, sign_token
from uvarovite.services.delivery.traces import sent_message, trace
from uvarovite.services.delivery.watching import dispatch_view, find_deliveries
from uvarovite.store.database import change_sql, run_sql

BROWSER = {"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"}


@pytest.fixture
def run_id(museum: Museum, clock: TestClock) -> int:
    """A run whose first batch (Ada and Benoît) has been accepted, a minute ago."""
    run_id = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    send(museum, batch, kit_of(museum, run_id), OK)
    clock.now = NOW + timedelta(minutes=1)
    return run_id


def link(museum: Museum, run_id: int, purpose: Purpose, contact_no: str = "M-01", number: int = 0) -> str:
    token = Token(purpose=purpose, delivery_id=museum.delivery_id(run_id, contact_no), number=number)
    text = sign_token(token, KEYRING)
    return {Purpose.OPEN: f"/o/{text}.gif", Purpose.CLICK: f"/r/{text}", Purpose.UNSUBSCRIBE: f"/u/{text}"}[purpose]


def test_a_pixel_is_an_image_and_an_open(client: TestClient, museum: Museum, run_id: int) -> None:
    answer = client.get(link(museum, run_id, Purpose.OPEN), headers=BROWSER)
    assert answer.headers["content-type"] == "image/gif"
    assert answer.headers["cache-control"] == "no-store"
    client.head(link(museum, run_id, Purpose.OPEN), headers=BROWSER)
    client.get(link(museum, run_id, Purpose.OPEN, "M-02"), headers={"User-Agent": "LinkScan/3.1"})
    counted = dispatch_view(museum.database, SYSTEM, run_id, NOW).responses
    assert counted == {
        "opened": 1,
        "clicked": 0,
        "replied": 0,
        "left": 0,
        "bounced": 0,
        "complained": 0,
        "machine_events": 2,
    }
    found = find_deliveries(museum.database, SYSTEM, run_id, search="", state=None, response="opened")
    assert [one.id for one in found] == [museum.delivery_id(run_id, "M-01")]


def test_a_click_leads_to_the_address_in_the_message_and_nowhere_else(
    client: TestClient, museum: Museum, run_id: int
) -> None:
    answer = client.get(link(museum, run_id, Purpose.CLICK) + "?url=https://elsewhere.example/", headers=BROWSER)
    assert answer.status_code == 302
    assert answer.headers["location"] == "https://skarnmuseum.example/walks?card=M-01"
    steps = [step.words for step in trace(museum.database, SYSTEM, museum.delivery_id(run_id, "M-01")).steps]
    assert steps[-1] == "clicked link 1, by a person"


def test_a_click_makes_nothing_of_the_message(
    client: TestClient, museum: Museum, run_id: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("uvarovite.services.responses.tracking.composer_of", None)
    answer = client.get(link(museum, run_id, Purpose.CLICK), headers=BROWSER)
    assert answer.headers["location"] == "https://skarnmuseum.example/walks?card=M-01"


def test_a_link_from_before_links_were_kept_leads_where_it_led(client: TestClient, museum: Museum, run_id: int) -> None:
    with museum.database.transaction() as tx:
        change_sql(tx, "DELETE FROM delivery_link")
        change_sql(tx, "DELETE FROM run_link")
    answer = client.get(link(museum, run_id, Purpose.CLICK), headers=BROWSER)
    assert answer.headers["location"] == "https://skarnmuseum.example/walks?card=M-01"
    assert client.get(link(museum, run_id, Purpose.CLICK, number=7), headers=BROWSER).status_code == 404


@pytest.mark.parametrize("purpose", [Purpose.CLICK, Purpose.UNSUBSCRIBE])
def test_a_link_that_is_none_of_ours_says_so(client: TestClient, museum: Museum, run_id: int, purpose: Purpose) -> None:
    whole = link(museum, run_id, purpose)
    other = link(museum, run_id, Purpose.UNSUBSCRIBE if purpose is Purpose.CLICK else Purpose.CLICK)
    for address in (whole[:-3], whole[:3] + "A" * 38, whole[:3] + other[3:], whole[:3] + "ü"):
        answer = client.get(address, headers=BROWSER)
        assert answer.status_code == 404
        assert "not complete" in answer.text
    assert client.get(link(museum, run_id, Purpose.CLICK, number=7), headers=BROWSER).status_code == 404


def consent(museum: Museum, contact_no: str = "M-01") -> str:
    with museum.database.transaction() as tx:
        sql = "SELECT state FROM consent WHERE contact_id = :id AND topic_id = :topic"
        rows = run_sql(tx, sql, {"id": museum.contact_id(contact_no), "topic": museum.topic_id})
    return str(rows[0].state)


def test_looking_at_the_page_to_leave_changes_nothing(client: TestClient, museum: Museum, run_id: int) -> None:
    address = link(museum, run_id, Purpose.UNSUBSCRIBE)
    for ask in (client.get, client.head):
        assert ask(address, headers={"User-Agent": "LinkScan/3.1"}).status_code == 200
    page = client.get(address)
    assert "Skarn Valley Mineral Museum" in page.text
    assert "Field walks" in page.text
    assert "<script" not in page.text
    assert "ada@" not in page.text
    assert consent(museum) == "subscribed"
    for body in (b"", b"something=else", b"x" * 10_000):
        assert client.post(address, content=body).status_code == 404
    assert consent(museum) == "subscribed"


def test_the_button_on_the_page_leaves_in_the_readers_language(client: TestClient, museum: Museum, run_id: int) -> None:
    address = link(museum, run_id, Purpose.UNSUBSCRIBE, "M-02")
    assert "Quitter « Field walks » ?" in client.get(address).text
    answer = client.post(address, data={"leave": "yes"})
    assert answer.status_code == 200
    assert "Vous avez quitté" in answer.text
    assert consent(museum, "M-02") == "left"
    assert "Vous avez quitté" in client.get(address).text


@pytest.mark.parametrize("as_form_data", [False, True])
def test_one_click_leaves_without_cookie_page_or_redirect(
    client: TestClient, museum: Museum, run_id: int, as_form_data: bool
) -> None:
    address = link(museum, run_id, Purpose.UNSUBSCRIBE)
    for _ in range(2):
        if as_form_data:
            answer = client.post(address, files={"List-Unsubscribe": (None, "One-Click")})
        else:
            answer = client.post(address, data={"List-Unsubscribe": "One-Click"})
        assert answer.status_code == 200
        assert answer.content == b""
        assert "set-cookie" not in answer.headers
    assert consent(museum) == "left"
    with museum.database.transaction() as tx:
        ways = run_sql(tx, "SELECT channel FROM consent_event WHERE kind = 'withdrawn' AND channel <> 'by_hand'")
    assert [row.channel for row in ways] == ["one_click"]


def test_with_a_new_key_old_links_go_on_working_and_messages_are_what_they_were(
    museum: Museum, run_id: int, clock: TestClock
) -> None:
    old, delivery = link(museum, run_id, Purpose.UNSUBSCRIBE), museum.delivery_id(run_id, "M-01")
    newer = derive_keyring(SECRET, (1, 2, 3))
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=museum.delivery_id(run_id, "M-02")), newer)
    with web_client(museum.database, clock, link_key=3) as rotated:
        assert rotated.post(old, data={"leave": "yes"}).status_code == 200
        assert rotated.get(f"/u/{token}").status_code == 200
        assert "You have left" in rotated.get(old).text
    # One that has not been told of the new key takes nothing that it signed.
    with web_client(museum.database, clock) as behind:
        assert behind.get(f"/u/{token}").status_code == 404
    before, after = (
        sent_message(museum.database, SYSTEM, delivery, keyring=one, secret=SECRET, now=NOW).digest
        for one in (KEYRING, newer)
    )
    assert before == after
