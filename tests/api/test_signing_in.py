"""Signing in: cookies, CSRF, the limit on tries, one-time links; and no route without it."""

from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import NOW, Museum
from tests.support.web import EMAIL, PASSWORD, TestClock, sign_in
from uvarovite.api.guard import COOKIE, CSRF_HEADER
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts import signing_in
from uvarovite.services.accounts.signing_in import Browser
from uvarovite.services.accounts.users import create_user, make_link
from uvarovite.services.errors import BadInput, ServiceRefusal
from uvarovite.store.database import run_sql


def test_no_route_answers_without_a_session(client: TestClient) -> None:
    paths = client.get("/api/openapi.json").json()["paths"]
    asked = 0
    for path, methods in paths.items():
        for method in methods:
            if path.startswith("/api/session") and method == "post":
                continue
            address = path
            for name in ("contact_id", "import_id", "audience_id", "message_id", "campaign_id", "run_id",
                         "delivery_id", "relay_id"):  # fmt: skip
                address = address.replace(f"{{{name}}}", "1")
            answer = client.request(method, address, json={})
            assert answer.status_code == 401, (method, path)
            assert answer.json()["code"] == "not_signed_in"
            asked += 1
    assert asked > 25


def test_a_session_is_in_a_cookie_that_no_script_reads(client: TestClient, museum: Museum) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=TestClock().now)
    answer = client.post("/api/session", json={"email": EMAIL.upper(), "password": PASSWORD})
    cookie = answer.headers["set-cookie"]
    assert cookie.startswith(f"{COOKIE}=")
    assert "HttpOnly" in cookie
    assert "SameSite=lax" in cookie
    assert client.get("/api/session").json()["name"] == "Signe Vale"
    assert PASSWORD not in answer.text


def test_a_change_without_the_csrf_token_is_refused(client: TestClient, museum: Museum) -> None:
    sign_in(client, museum.database)
    body = {"name": "Skarn only", "text": 'town is "Skarn"'}
    assert client.post("/api/audiences", json=body).status_code == 200
    for token in ("", "wrong"):
        answer = client.post("/api/audiences", json={**body, "name": "Other"}, headers={CSRF_HEADER: token})
        assert (answer.status_code, answer.json()["code"]) == (403, "csrf")


def test_guessing_is_stopped_for_a_quarter_of_an_hour(client: TestClient, museum: Museum, clock: TestClock) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=clock.now)
    for _ in range(6):
        answer = client.post("/api/session", json={"email": EMAIL, "password": "a wrong guess"})
        assert (answer.status_code, answer.json()["code"]) == (401, "wrong_log_in")
    unknown = client.post("/api/session", json={"email": "nobody@skarnmuseum.example", "password": "x"})
    assert unknown.json()["detail"] == answer.json()["detail"]
    assert client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).status_code == 429
    clock.now += timedelta(minutes=16)
    assert client.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).status_code == 200


def attempt(museum: Museum, origin: str, password: str = "a wrong guess", email: str = EMAIL) -> str:
    """What a try to sign in comes to: in, or the code of the refusal."""
    try:
        signing_in.sign_in(
            museum.database, email=email, password=password, browser=Browser(origin=origin, agent="a test"), now=NOW
        )
    except ServiceRefusal as fault:
        return fault.code
    return "in"


def test_many_tries_at_once_are_as_many(museum: Museum) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    with ThreadPoolExecutor(12) as many:
        tried = Counter(many.map(lambda _: attempt(museum, "192.0.2.1"), range(24)))
    assert tried == {"wrong_log_in": 6, "too_many": 18}


def test_strangers_do_not_lock_the_right_person_out(museum: Museum) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    assert attempt(museum, "198.51.100.7", PASSWORD) == "in"
    tried = Counter(attempt(museum, f"192.0.2.{n // 6}") for n in range(72))
    assert tried == {"wrong_log_in": signing_in.TRIES_PER_ACCOUNT, "too_many": 72 - signing_in.TRIES_PER_ACCOUNT}
    # From anywhere new nobody gets in now, by whichever password; from where she works, she does.
    assert attempt(museum, "203.0.113.9", PASSWORD) == "too_many"
    assert attempt(museum, "198.51.100.7", PASSWORD) == "in"


def test_an_old_password_lets_nobody_in_that_is_changed_while_it_is_looked_at(
    museum: Museum, monkeypatch: pytest.MonkeyPatch
) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    look = signing_in.is_right

    def slowly(known: str | None, password: str) -> bool:
        right = look(known, password)
        with museum.database.transaction() as tx:
            run_sql(tx, "UPDATE user_account SET password_hash = 'another'")
        return right

    monkeypatch.setattr(signing_in, "is_right", slowly)
    assert attempt(museum, "192.0.2.1", PASSWORD) == "wrong_log_in"


def test_one_origin_cannot_try_many_accounts(museum: Museum) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    tried = Counter(attempt(museum, "192.0.2.1", email=f"n{n}@skarnmuseum.example") for n in range(40))
    assert tried == {"wrong_log_in": signing_in.TRIES_PER_ORIGIN, "too_many": 40 - signing_in.TRIES_PER_ORIGIN}
    assert attempt(museum, "192.0.2.2", PASSWORD) == "in"


def test_what_has_ended_is_purged(client: TestClient, museum: Museum, clock: TestClock) -> None:
    sign_in(client, museum.database)
    make_link(museum.database, SYSTEM, email=EMAIL, now=clock.now)
    assert signing_in.purge_sign_ins(museum.database, clock.now) == 0
    # A session, a link, two counts; then the origin that was known.
    assert signing_in.purge_sign_ins(museum.database, clock.now + timedelta(days=2)) == 4
    assert signing_in.purge_sign_ins(museum.database, clock.now + timedelta(days=91)) == 1


def test_a_link_works_once_and_for_a_day(client: TestClient, museum: Museum, clock: TestClock) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=clock.now)
    token = make_link(museum.database, SYSTEM, email=EMAIL, now=clock.now)
    assert client.post("/api/session/link", json={"token": token}).status_code == 200
    assert client.post("/api/session/link", json={"token": token}).status_code == 401
    old = make_link(museum.database, SYSTEM, email=EMAIL, now=clock.now)
    clock.now += timedelta(hours=25)
    assert client.post("/api/session/link", json={"token": old}).status_code == 401


def test_signing_out_and_time_end_a_session(client: TestClient, museum: Museum, clock: TestClock) -> None:
    sign_in(client, museum.database)
    kept = client.cookies[COOKIE]
    assert client.delete("/api/session").status_code == 204
    client.cookies.set(COOKIE, kept)
    assert client.get("/api/session").status_code == 401
    client.cookies.clear()
    sign_in(client, museum.database, make=False)
    clock.now += timedelta(hours=13)
    assert client.get("/api/session").status_code == 401


def test_a_short_password_and_an_address_in_use_are_refused(museum: Museum, clock: TestClock) -> None:
    with pytest.raises(BadInput, match="at least 10"):
        create_user(museum.database, SYSTEM, email=EMAIL, name="", password="short", now=clock.now)
    create_user(museum.database, SYSTEM, email=EMAIL, name="", password=PASSWORD, now=clock.now)
    with pytest.raises(BadInput, match="already"):
        create_user(museum.database, SYSTEM, email=EMAIL.upper(), name="", password=PASSWORD, now=clock.now)
