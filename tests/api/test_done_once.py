"""A change that is sent again under its key is done once: double clicks, lost answers, two tabs, many at once."""

import asyncio
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from tests.support.museum import MESSAGE, Museum
from tests.support.web import TestClock, sign_in
from uvarovite.api.once import KEY_HEADER, REPLAYED_HEADER
from uvarovite.services.organisation.single_mails import HandedOver
from uvarovite.services.saving.once import purge_keys
from uvarovite.store.database import run_sql


@pytest.fixture
def client(client: TestClient, museum: Museum) -> TestClient:
    sign_in(client, museum.database)
    return client


def count(museum: Museum, table: str) -> int:
    with museum.database.transaction() as tx:
        return int(run_sql(tx, f"SELECT count(*) FROM {table}")[0][0])


CAMPAIGN = {"name": "Spring walks"}
PERSON = {"values": {"first_name": "Nia", "address": "nia@slatepost.example"}}
MADE: list[tuple[str, str, dict[str, Any]]] = [
    ("campaign", "/api/campaigns", CAMPAIGN),
    ("audience", "/api/audiences", {"name": "Skarn", "text": 'town is "Skarn"'}),
    ("message", "/api/messages", {"name": "Spring", "content": MESSAGE.model_dump(mode="json")}),
    ("contact", "/api/contacts", PERSON),
    ("topic", "/api/topics", {"key": "talks", "name": "Talks"}),
    ("contact_field", "/api/fields", {"key": "shoe_size", "label": "Shoe size", "type": "number"}),
    ("contact_note", "/api/contacts/1/notes", {"text": "Prefers post."}),
    ("contact_tag", "/api/contacts/1/tags", {"name": "walker", "put": True}),
    ("suppression", "/api/suppressions", {"text": "*@nowhere.example", "reason": "closed"}),
    (
        "contact_view",
        "/api/contact-views",
        {"name": "Mine", "columns": [{"key": "address", "width": 200}], "sort": "last_name"},
    ),
]


@pytest.mark.parametrize(("table", "path", "body"), MADE, ids=[row[0] for row in MADE])
def test_whatever_makes_something_makes_one(
    client: TestClient, museum: Museum, table: str, path: str, body: dict[str, Any]
) -> None:
    before, key = count(museum, table), {KEY_HEADER: "the-one-key"}
    with ThreadPoolExecutor(6) as many:
        answers = list(many.map(lambda _: client.post(path, json=body, headers=key), range(6)))
    assert {(one.status_code, one.text) for one in answers} == {(answers[0].status_code, answers[0].text)}
    assert answers[0].is_success, answers[0].text
    assert sum(REPLAYED_HEADER in one.headers for one in answers) == 5
    assert count(museum, table) == before + 1


def test_a_test_is_sent_once(client: TestClient, museum: Museum) -> None:
    sent: list[Any] = []

    async def send(_actor: object, **asked: Any) -> HandedOver:
        sent.append(asked)
        return HandedOver(accepted=True, words="250 taken")

    assert isinstance(client.app, FastAPI)
    client.app.state.api = replace(client.app.state.api, send_test=send)
    body = {"content": MESSAGE.model_dump(mode="json"), "contact_id": museum.contact_id("M-01")}
    for _ in range(3):
        answer = client.post("/api/test-send", json=body, headers={KEY_HEADER: "pressed-thrice"})
        assert answer.json() == {"accepted": True, "words": "250 taken"}
    assert len(sent) == 1


def test_what_failed_may_be_tried_again_under_the_same_key(client: TestClient, museum: Museum) -> None:
    key = {KEY_HEADER: "first-it-fails"}
    assert client.post("/api/campaigns", json={"name": " "}, headers=key).status_code == 422
    taken = client.post("/api/campaigns", json={"name": "Walks"}, headers=key)
    assert (taken.status_code, taken.json()["detail"]) == (422, "There is a campaign “Walks” already.")
    assert client.post("/api/campaigns", json=CAMPAIGN, headers=key).status_code == 200
    assert count(museum, "idempotency_key") == 1


def test_a_key_stands_for_one_thing_of_one_person(client: TestClient, museum: Museum) -> None:
    key = {KEY_HEADER: "one-and-the-same"}
    assert client.post("/api/campaigns", json=CAMPAIGN, headers=key).status_code == 200
    other = client.post("/api/campaigns", json={"name": "Autumn walks"}, headers=key)
    assert (other.status_code, other.json()["code"]) == (422, "key_used")
    assert client.post("/api/campaigns", json=CAMPAIGN, headers={KEY_HEADER: "!"}).status_code == 422
    # Without a key each request stands for itself; a name that is taken is a plain word.
    assert client.post("/api/campaigns", json=CAMPAIGN).json()["code"] == "taken"


def test_whoever_asks_while_it_is_being_done_waits_for_its_answer(client: TestClient, museum: Museum) -> None:
    key, begun, go = {KEY_HEADER: "slow-but-once"}, threading.Event(), threading.Event()

    async def send(_actor: object, **_: Any) -> HandedOver:
        begun.set()
        await asyncio.to_thread(go.wait)
        return HandedOver(accepted=True, words="250 taken")

    assert isinstance(client.app, FastAPI)
    client.app.state.api = replace(client.app.state.api, send_test=send)
    body = {"content": MESSAGE.model_dump(mode="json"), "contact_id": museum.contact_id("M-01")}
    with ThreadPoolExecutor(2) as two:
        first = two.submit(client.post, "/api/test-send", json=body, headers=key)
        begun.wait()
        second = two.submit(client.post, "/api/test-send", json=body, headers=key)
        go.set()
        assert first.result().json() == second.result().json() == {"accepted": True, "words": "250 taken"}


def test_a_change_that_was_done_is_answered_as_it_was(client: TestClient, museum: Museum, clock: TestClock) -> None:
    made = client.post("/api/campaigns", json=CAMPAIGN).json()
    body = {**CAMPAIGN, "revision": made["revision"], "again": "everybody"}
    first = client.put(f"/api/campaigns/{made['id']}", json=body, headers={KEY_HEADER: "saved-and-lost"})
    again = client.put(f"/api/campaigns/{made['id']}", json=body, headers={KEY_HEADER: "saved-and-lost"})
    assert again.json() == first.json()
    assert first.json()["revision"] == made["revision"] + 1
    # Without the key it would have met its own save.
    assert client.put(f"/api/campaigns/{made['id']}", json=body).json()["code"] == "changed"
    assert purge_keys(museum.database, clock.now + timedelta(days=2)) == 1


NAMED: list[tuple[str, dict[str, Any]]] = [
    ("/api/campaigns", CAMPAIGN),
    ("/api/audiences", {"name": "Skarn", "text": 'town is "Skarn"'}),
    ("/api/messages", {"name": "Spring", "content": MESSAGE.model_dump(mode="json")}),
    ("/api/topics", {"key": "talks", "name": "Talks"}),
    ("/api/fields", {"key": "shoe_size", "label": "Shoe size", "type": "number"}),
    ("/api/contact-views", {"name": "Mine", "columns": [{"key": "address", "width": 200}], "sort": "last_name"}),
]


@pytest.mark.parametrize(("path", "body"), NAMED, ids=[row[0] for row in NAMED])
def test_two_who_make_the_same_at_once_make_one_and_are_told_in_words(
    client: TestClient, path: str, body: dict[str, Any]
) -> None:
    with ThreadPoolExecutor(6) as many:
        answers = list(many.map(lambda _: client.post(path, json=body), range(6)))
    assert sorted(one.status_code for one in answers) == [200] + [422] * 5, [one.text for one in answers]
    for one in answers:
        assert one.is_success or len(one.json()["detail"]) > 10
