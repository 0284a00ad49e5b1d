"""Before every route: what is sent is bounded before it is read, and nothing makes those wait who want to leave."""

import asyncio
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from starlette.datastructures import MutableHeaders

from tests.api.test_public_pages import BROWSER, link
from tests.support.museum import NOW, PUBLIC_URL, Museum
from tests.support.web import TestClock, sign_in
from uvarovite.api.guard import COOKIE, CSRF_HEADER, STRANGERS_BYTES, USUAL_BYTES, guard_headers
from uvarovite.core.responses import Purpose
from uvarovite.core.values import origin_key
from uvarovite.services.bounded import BoundedWork, TooBusyError
from uvarovite.services.responses.visits import VISITS_PER_TOKEN
from uvarovite.store import tallies
from uvarovite.store.database import DatabaseBusy, change_sql, run_sql


class Sent:
    """A request whose body comes in pieces of 64 kB, for as long as anybody reads it."""

    def __init__(self, client: TestClient, path: str, *, claimed: int | None = None, signed_in: bool = False) -> None:
        assert isinstance(client.app, FastAPI)
        self.read = 0
        self._app = client.app
        headers = [(b"host", b"museum.example"), (b"content-type", b"application/json")]
        if claimed is not None:
            headers.append((b"content-length", str(claimed).encode()))
        if signed_in:
            headers.append((b"cookie", f"{COOKIE}={client.cookies[COOKIE]}".encode()))
            headers.append((CSRF_HEADER.lower().encode(), client.headers[CSRF_HEADER].encode()))
        self._scope = {
            "type": "http", "asgi": {"version": "3.0"}, "http_version": "1.1", "method": "POST", "path": path,
            "raw_path": path.encode(), "root_path": "", "query_string": b"", "scheme": "https", "headers": headers,
            "client": ("127.0.0.1", 1), "server": ("museum.example", 443), "state": {},
        }  # fmt: skip

    def status(self) -> int:
        """What is answered."""
        told: list[int] = []

        async def receive() -> dict[str, Any]:
            self.read += 1 << 16
            return {"type": "http.request", "body": b" " * (1 << 16), "more_body": True}

        async def send(message: Any) -> None:
            if message["type"] == "http.response.start":
                told.append(message["status"])

        asyncio.run(self._app(self._scope, receive, send))
        return told[0]


@pytest.mark.parametrize("path", ["/api/session", "/api/imports", "/api/imports/cells", "/api/campaigns"])
def test_nothing_large_is_read_for_a_stranger(client: TestClient, path: str) -> None:
    claimed = Sent(client, path, claimed=STRANGERS_BYTES + 1)
    assert (claimed.status(), claimed.read) == (401, 0)
    endless = Sent(client, path)
    assert endless.status() == 401
    assert endless.read == 1 << 16


def test_whoever_is_signed_in_may_send_what_a_route_takes(client: TestClient, museum: Museum) -> None:
    sign_in(client, museum.database)
    claimed = Sent(client, "/api/campaigns", claimed=USUAL_BYTES + 1, signed_in=True)
    assert (claimed.status(), claimed.read) == (413, 0)
    endless = Sent(client, "/api/campaigns", signed_in=True)
    assert endless.status() == 413
    assert USUAL_BYTES < endless.read <= USUAL_BYTES + (1 << 16)
    answer = client.post("/api/campaigns", json={"name": "x" * USUAL_BYTES})
    assert (answer.status_code, answer.json()["detail"]) == (
        413, "This is larger than 4 MB. Nothing was changed. Send less at a time.",
    )  # fmt: skip
    # Without the page's own token a session is no reason to read on.
    forged = client.post("/api/campaigns", json={"name": "x" * STRANGERS_BYTES}, headers={CSRF_HEADER: "forged"})
    assert (forged.status_code, forged.json()["code"]) == (403, "csrf")
    rows = b"".join(b"p%d@slatepost.example,%s\n" % (n, b"x" * 9_000) for n in range(USUAL_BYTES // 9_000 + 1))
    assert client.post("/api/imports", files={"file": ("a.csv", b"E-mail,Note\n" + rows)}).status_code == 200


@pytest.mark.parametrize(
    "kind", ["application/json", "application/vnd.api+json", "APPLICATION/Geo+JSON; charset=utf-8", "text/plain", ""]
)
def test_a_nul_is_refused_under_every_name_for_json(client: TestClient, museum: Museum, kind: str) -> None:
    sign_in(client, museum.database)
    for text in (b'{"name": "a\\u0000b"}', b'{"name": "a\\ud83db"}'):
        answer = client.post("/api/campaigns", content=text, headers={"content-type": kind})
        assert (answer.status_code, answer.json()["code"]) == (422, "unstorable")


def test_pages_that_tell_of_a_fault_carry_the_headers_too(client: TestClient, museum: Museum) -> None:
    sign_in(client, museum.database)
    assert isinstance(client.app, FastAPI)
    parts = client.app.state.api

    class Broken:
        def __init__(self, fault: Exception) -> None:
            self._fault = fault

        def transaction(self) -> Any:
            raise self._fault

    quiet = TestClient(client.app, base_url=PUBLIC_URL, raise_server_exceptions=False, cookies=client.cookies)
    for fault, status in ((RuntimeError("at line 1 of the secrets"), 500), (DatabaseBusy("none is free"), 503)):
        client.app.state.api = replace(parts, database=Broken(fault))
        answer = quiet.get("/api/campaigns")
        assert answer.status_code == status
        assert answer.headers["content-type"] == "application/problem+json"
        assert "secrets" not in answer.text
        assert answer.headers["cache-control"] == "no-store"
        assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]
    client.app.state.api = parts
    for path in ("/api/nothing", "/api/session", "/contacts", "/u/none"):
        answer = client.get(path)
        assert answer.headers["x-content-type-options"] == "nosniff"
        assert answer.headers["x-frame-options"] == "DENY"
    assert client.get("/api/session").headers["cache-control"] == "no-store"
    for over_tls in (False, True):
        headers = MutableHeaders()
        guard_headers(headers, path="/", over_tls=over_tls)
        assert ("strict-transport-security" in headers) is over_tls


def test_leaving_waits_for_nothing_that_an_account_does(client: TestClient, museum: Museum) -> None:
    """Every connection of the application is in use, and every thread waits for one."""
    run_id = museum.release()
    sign_in(client, museum.database)
    address, pixel = link(museum, run_id, Purpose.UNSUBSCRIBE), link(museum, run_id, Purpose.OPEN, "M-02")
    with ExitStack() as held, ThreadPoolExecutor(44) as many:
        for _ in range(16):
            held.enter_context(museum.database.transaction()).connection()
        waiting = [many.submit(client.get, "/api/campaigns") for _ in range(44)]
        assert "Leave" in client.get(address, headers=BROWSER).text
        assert client.post(address, data={"leave": "yes"}, headers=BROWSER).status_code == 200
        assert client.get(pixel, headers=BROWSER).status_code == 200
        assert not any(one.done() for one in waiting)
        held.close()
        assert {one.result().status_code for one in waiting} == {200}


def test_what_is_asked_again_and_again_is_not_looked_at_but_leaving_is(
    client: TestClient, museum: Museum, clock: TestClock, monkeypatch: pytest.MonkeyPatch
) -> None:
    run_id = museum.release()
    with museum.database.transaction() as tx:
        change_sql(tx, "UPDATE delivery SET marked_at = :now", {"now": NOW})
        change_sql(tx, "INSERT INTO delivery_link SELECT id, 0, 'https://skarnmuseum.example/' FROM delivery")
    leave, click = link(museum, run_id, Purpose.UNSUBSCRIBE), link(museum, run_id, Purpose.CLICK)
    pixel = link(museum, run_id, Purpose.OPEN)
    for _ in range(VISITS_PER_TOKEN):
        assert client.get(click, headers=BROWSER).status_code == 302
        assert client.get(pixel).status_code == 200
    for address, headers, words in (
        (click, BROWSER, "again in a minute"),
        (click, {"Accept-Language": "fr-CH"}, "Réess"),
    ):
        answer = client.get(address, headers=headers)
        assert (answer.status_code, answer.headers["retry-after"]) == (429, "60")
        assert words in answer.text
    assert client.get(pixel).status_code == 200
    with museum.database.transaction() as tx:
        counted = run_sql(tx, "SELECT kind, count(*) AS n FROM response_event GROUP BY 1 ORDER BY 1")
    assert {row.kind: row.n for row in counted} == {"clicked": VISITS_PER_TOKEN, "opened": VISITS_PER_TOKEN}
    other = link(museum, run_id, Purpose.CLICK, "M-02")
    assert client.get(other).status_code == 302
    monkeypatch.setattr("uvarovite.public.tracking.VISITS_PER_ORIGIN", VISITS_PER_TOKEN + 1)
    assert client.get(other).status_code == 429
    for _ in range(VISITS_PER_TOKEN + 2):
        assert client.post(leave, data={"List-Unsubscribe": "One-Click"}).status_code == 200
    clock.now += timedelta(minutes=2)
    assert client.get(click).status_code == 302


def test_counts_are_exact_however_many_count_at_once(museum: Museum) -> None:
    def count(_: int) -> int:
        with museum.database.transaction() as tx:
            return tallies.count_up(tx, ["b", "a"], NOW, timedelta(minutes=1))["a"]

    with ThreadPoolExecutor(8) as many:
        assert sorted(many.map(count, range(40))) == list(range(1, 41))
    with museum.database.transaction() as tx:
        assert tallies.count_up(tx, ["a"], NOW + timedelta(minutes=1), timedelta(minutes=1)) == {"a": 1}
        assert tallies.forget_old(tx, NOW + timedelta(seconds=1)) == 1


def test_work_of_a_kind_is_done_by_few_and_waited_for_by_few() -> None:
    at_once, most, gate = 0, 0, threading.Event()

    def work() -> None:
        nonlocal at_once, most
        at_once += 1
        most = max(most, at_once)
        gate.wait()
        at_once -= 1

    async def ask() -> int:
        bounded = BoundedWork("test", threads=2, waiting=3)
        asked = [asyncio.create_task(bounded.run(work)) for _ in range(9)]
        await asyncio.sleep(0)
        gate.set()
        return sum(isinstance(one, TooBusyError) for one in await asyncio.gather(*asked, return_exceptions=True))

    assert (asyncio.run(ask()), most <= 2) == (4, True)


def test_an_origin_is_an_address_or_a_subscribers_network() -> None:
    assert origin_key("192.0.2.7") == origin_key("::ffff:192.0.2.7") == "192.0.2.7"
    assert origin_key("2001:db8:1:2::7") == origin_key("2001:db8:1:2:ffff::1") == "2001:db8:1:2::/64"
    assert origin_key(None) == origin_key("testclient") == "unknown"
