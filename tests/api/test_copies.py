"""Messages in a browser: one's own behind its token, and one for everybody with nobody's data in it."""

import re
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import HASHER, KEYRING, NOW, Museum
from tests.support.post import Post
from tests.support.web import TestClock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Tracked
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.delivery.traces import sent_message
from uvarovite.services.responses.copies import allow_public_copy
from uvarovite.services.responses.of_runs import run_responses
from uvarovite.services.responses.visits import VISITS_PER_TOKEN
from uvarovite.services.selection.bulk import Selection, erase

BROWSER = {"User-Agent": "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"}


@pytest.fixture
def post(museum: Museum, clock: TestClock) -> Post:
    clock.now = NOW + timedelta(minutes=5)
    return Post(museum)


def copy_of(post: Post, contact_no: str = "M-01") -> str:
    token = sign_token(Token(purpose=Purpose.COPY, delivery_id=post.delivery(contact_no)), KEYRING)
    return f"/v/{token}"


def public(post: Post) -> str:
    address = run_responses(post.museum.database, SYSTEM, post.run_id, keyring=KEYRING).public_address
    return address.removeprefix("http://127.0.0.1:8040") if address else ""


def test_ones_own_copy_is_the_message_without_its_pixel_and_counts_as_opened(client: TestClient, post: Post) -> None:
    sent = sent_message(post.museum.database, SYSTEM, post.delivery(), keyring=KEYRING, secret=b"x" * 32, now=NOW).html
    link = re.search(r'href="http://127\.0\.0\.1:8040(/v/[^"]+)"', sent)
    assert link is not None
    answer = client.get(link[1], headers=BROWSER)
    assert "Dear Ada" in answer.text
    assert "/o/" not in answer.text
    assert "/v/" not in answer.text
    assert set(re.findall(r"/[ru]/[\w-]+", answer.text)) < set(re.findall(r"/[ru]/[\w-]+", sent))
    policy = answer.headers["content-security-policy"]
    assert "sandbox" in policy
    assert "allow-scripts" not in policy
    assert "allow-same-origin" not in policy
    assert (answer.headers["cache-control"], answer.headers["x-robots-tag"]) == ("no-store", "noindex")
    assert post.events() == [("M-01", "opened")]
    client.get(copy_of(post), headers={"User-Agent": "LinkScan/3.1"})
    assert run_responses(post.museum.database, SYSTEM, post.run_id, keyring=KEYRING).opened == 1


def test_nobody_reads_anothers_copy_or_one_that_is_gone(client: TestClient, post: Post) -> None:
    token = copy_of(post)
    for forged in (token[:-1], f"{token[:-6]}AAAAAA", "/v/x", f"/v/{'A' * 38}"):
        assert client.get(forged).status_code == 404
    click = sign_token(Token(purpose=Purpose.CLICK, delivery_id=post.delivery()), KEYRING)
    assert client.get(f"/v/{click}").status_code == 404
    ada = Selection(ids=(post.museum.contact_id("M-01"),), seen=1)
    erase(post.museum.database, SYSTEM, ada, hasher=HASHER, now=NOW)
    assert client.get(token).status_code == 404
    assert client.get(copy_of(post, "M-02")).status_code == 200


def test_a_copy_of_what_is_not_noted_is_not_noted(client: TestClient, museum: Museum, clock: TestClock) -> None:
    museum.change(track_opens=Tracked.OFF)
    post = Post(museum)
    clock.now = NOW + timedelta(minutes=5)
    assert client.get(copy_of(post), headers=BROWSER).status_code == 200
    assert post.events() == []


def test_a_public_copy_is_there_once_it_is_allowed_and_has_nobodys_data(client: TestClient, post: Post) -> None:
    run_token = sign_token(Token(purpose=Purpose.PUBLIC_COPY, delivery_id=post.run_id), KEYRING)
    assert client.get(f"/v/{run_token}").status_code == 404
    assert public(post) == ""
    for _ in range(2):
        allow_public_copy(post.museum.database, SYSTEM, post.run_id, True)
    assert public(post) == f"/v/{run_token}"
    answer = client.get(public(post), headers=BROWSER)
    assert "Dear friend" in answer.text
    for own in ("Ada", "Benoît", "M-01", "750", "/r/", "/u/", "/o/", "/v/"):
        assert own not in answer.text
    assert answer.headers["cache-control"] == "no-cache"
    assert post.events() == []
    # What many read is not taken for a mailbox that asks again and again.
    assert all(client.get(public(post)).status_code == 200 for _ in range(VISITS_PER_TOKEN + 1))
    allow_public_copy(post.museum.database, SYSTEM, post.run_id, False)
    assert client.get(f"/v/{run_token}").status_code == 404


def test_what_is_counted_leads_where_it_should_and_names_nobody(
    client: TestClient, museum: Museum, clock: TestClock
) -> None:
    museum.change(track_clicks=Tracked.COUNTED, track_opens=Tracked.COUNTED)
    post = Post(museum)
    clock.now = NOW + timedelta(minutes=5)
    sent = sent_message(museum.database, SYSTEM, post.delivery(), keyring=KEYRING, secret=b"x" * 32, now=NOW).html
    # The only link holds a number of hers: it leads there straight.
    assert 'href="https://skarnmuseum.example/walks?card=M-01"' in sent
    pixel = re.search(r"/o/[\w-]+\.gif", sent)
    assert pixel is not None
    for _ in range(VISITS_PER_TOKEN + 10):
        client.get(pixel[0], headers=BROWSER)
    view = run_responses(museum.database, SYSTEM, post.run_id, keyring=KEYRING)
    assert (view.opened, view.opened_counted, post.events()) == (0, VISITS_PER_TOKEN + 10, [])
    token = Token(purpose=Purpose.COUNTED_CLICK, delivery_id=post.run_id, number=0)
    assert client.get(f"/r/{sign_token(token, KEYRING)}", follow_redirects=False).status_code == 404
