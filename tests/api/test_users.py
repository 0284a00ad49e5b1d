"""Users: invited by a link, in a role, with sessions that end; and tokens for programs."""

from datetime import timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.support.acting import acting
from tests.support.museum import NOW, Museum
from tests.support.web import EMAIL, PASSWORD, TestClock, sign_in, web_client
from uvarovite.api.guard import CSRF_HEADER
from uvarovite.api.once import KEY_HEADER
from uvarovite.core.accounts import SYSTEM, Role
from uvarovite.services.accounts.audit import audit_page
from uvarovite.services.accounts.users import change_role, close_account, create_user, user_list
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.saving.drafts import DraftKind, get_drafts, keep_draft
from uvarovite.store.database import run_sql

ODA, ODAS = "oda.mica@skarnmuseum.example", "slate-and-schist-7"


@pytest.fixture
def admin(client: TestClient, museum: Museum) -> TestClient:
    """An administrator's browser."""
    sign_in(client, museum.database)
    return client


def invite(admin: TestClient, role: str = "author") -> str:
    """The secret of Oda's invitation."""
    answer = admin.post("/api/users", json={"email": ODA, "name": "Oda Mica", "role": role})
    assert answer.status_code == 200, answer.text
    assert "/join#" in answer.json()["url"]
    return str(answer.json()["url"].partition("#")[2])


def join(browser: TestClient, token: str, password: str = ODAS) -> dict[str, Any]:
    """Come in by an invitation."""
    answer = browser.post("/api/session/invitation", json={"token": token, "name": "Oda", "password": password})
    assert answer.status_code == 200, answer.text
    browser.headers[CSRF_HEADER] = answer.json()["csrf_token"]
    return dict(answer.json())


def said(museum: Museum, **asked: Any) -> list[str]:
    """What the log says, latest first."""
    return [f"{line.name} {line.words}" for line in audit_page(museum.database, SYSTEM, **asked).lines]


def test_somebody_is_invited_by_a_link_and_chooses_their_password(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    token = invite(admin)
    with web_client(museum.database, clock) as oda:
        looked = oda.post("/api/session/invitation/look", json={"token": token}).json()
        assert looked == {"email": ODA, "name": "Oda Mica", "returning": False}
        assert oda.post("/api/session", json={"email": ODA, "password": ""}).status_code == 401
        short = oda.post("/api/session/invitation", json={"token": token, "password": "short"})
        assert (short.status_code, short.json()["code"]) == (422, "short_password")
        me = join(oda, token)
        assert (me["name"], me["role"]) == ("Oda", "author")
        # The link has done its work, for whoever finds it.
        assert oda.post("/api/session/invitation", json={"token": token, "password": ODAS}).status_code == 401
        assert oda.post("/api/session", json={"email": ODA, "password": ODAS}).status_code == 200
    assert "Signe Vale invited Oda Mica as Author" in said(museum)


def test_an_invitation_is_too_old_after_a_week_and_a_newer_one_takes_its_place(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    first = invite(admin)
    user_id = next(one.id for one in user_list(museum.database, SYSTEM, NOW) if one.email == ODA)
    second = admin.post(f"/api/users/{user_id}/link").json()["url"].partition("#")[2]
    for token, status in ((first, 401), (second, 200)):
        assert admin.post("/api/session/invitation/look", json={"token": token}).status_code == status
    clock.now += timedelta(days=8)
    assert admin.post("/api/session/invitation/look", json={"token": second}).status_code == 401


def test_another_role_ends_the_sessions_and_counts_at_once(admin: TestClient, museum: Museum, clock: TestClock) -> None:
    with web_client(museum.database, clock) as oda:
        join(oda, invite(admin))
        user_id = next(one.id for one in user_list(museum.database, SYSTEM, NOW) if one.email == ODA)
        assert oda.get("/api/users").status_code == 403
        assert admin.put(f"/api/users/{user_id}/role", json={"role": "reader"}).status_code == 204
        assert oda.get("/api/vocabulary").status_code == 401
        me = oda.post("/api/session", json={"email": ODA, "password": ODAS}).json()
        assert me["role"] == "reader"
    assert "Signe Vale made Oda Reader; before: Author" in said(museum, search="reader")


def test_whoever_leaves_is_out_with_all_that_was_theirs_and_can_be_invited_again(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    with web_client(museum.database, clock) as oda:
        join(oda, invite(admin))
        made = oda.post("/api/tokens", json={"name": "till", "scopes": ["look"]}).json()["token"]
        user_id = next(one.id for one in user_list(museum.database, SYSTEM, NOW) if one.email == ODA)
        actor = acting(user_id)
        keep_draft(museum.database, actor, DraftKind.AUDIENCE, 0, base={}, base_revision=0, body={}, seen=0, now=NOW)
        assert admin.delete(f"/api/users/{user_id}").status_code == 204
        assert oda.get("/api/vocabulary").status_code == 401
        assert oda.post("/api/session", json={"email": ODA, "password": ODAS}).status_code == 401
        program = {"Authorization": f"Bearer {made}"}
        assert oda.get("/api/vocabulary", headers=program).status_code == 401
        assert get_drafts(museum.database, actor, DraftKind.AUDIENCE, 0).mine is None
        assert ODA not in {one["email"] for one in admin.get("/api/colleagues").json()}
        join(oda, invite(admin, "reader"))
        assert oda.get("/api/session").json()["role"] == "reader"
        # The old token stays revoked.
        assert oda.get("/api/vocabulary", headers=program).status_code == 401


def test_there_is_always_an_administrator_who_can_come_in(museum: Museum) -> None:
    database = museum.database
    signe = create_user(database, SYSTEM, email=EMAIL, name="Signe", password=PASSWORD, now=NOW)
    for leave in (
        lambda: close_account(database, SYSTEM, signe, now=NOW),
        lambda: change_role(database, SYSTEM, signe, Role.RELEASER),
    ):
        with pytest.raises(ServiceRefusal, match="the only administrator"):
            leave()
    other = create_user(database, SYSTEM, email=ODA, name="Oda", password=ODAS, now=NOW)
    change_role(database, SYSTEM, signe, Role.READER)
    with pytest.raises(ServiceRefusal, match="the only administrator"):
        close_account(database, SYSTEM, other, now=NOW)


def test_a_new_password_ends_the_other_sessions_and_takes_the_old_one(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    with web_client(museum.database, clock) as elsewhere:
        sign_in(elsewhere, museum.database, make=False)
        lines = admin.get("/api/own/sessions").json()
        assert [line["here"] for line in lines].count(True) == 1
        assert len(lines) == 2
        wrong = admin.put("/api/own/password", json={"old": "a wrong guess", "new": ODAS})
        assert (wrong.status_code, wrong.json()["field"]) == (422, "old")
        assert elsewhere.get("/api/session").status_code == 200
        assert admin.put("/api/own/password", json={"old": PASSWORD, "new": ODAS}).json() == 1
        assert elsewhere.get("/api/session").status_code == 401
        assert admin.get("/api/session").status_code == 200
        assert elsewhere.post("/api/session", json={"email": EMAIL, "password": PASSWORD}).status_code == 401
    for _ in range(6):
        admin.put("/api/own/password", json={"old": "a wrong guess", "new": ODAS})
    assert admin.put("/api/own/password", json={"old": ODAS, "new": PASSWORD}).status_code == 429


def test_a_session_is_ended_by_its_owner_alone(admin: TestClient, museum: Museum, clock: TestClock) -> None:
    mine = admin.get("/api/own/sessions").json()[0]["id"]
    with web_client(museum.database, clock) as oda:
        join(oda, invite(admin))
        assert oda.delete(f"/api/own/sessions/{mine}").status_code == 204
        assert admin.get("/api/session").status_code == 200
        user_id = next(one.id for one in user_list(museum.database, SYSTEM, NOW) if one.email == ODA)
        assert admin.delete(f"/api/users/{user_id}/sessions").json() == 1
        assert oda.get("/api/session").status_code == 401


def make_token(client: TestClient, *scopes: str, days: int | None = None) -> str:
    """A token with scopes."""
    answer = client.post("/api/tokens", json={"name": "the till", "scopes": list(scopes), "days": days})
    assert answer.status_code == 200, answer.text
    return str(answer.json()["token"])


def test_a_token_does_what_it_was_given_without_cookie_or_csrf(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    token = make_token(admin, "look", "write", days=30)
    with web_client(museum.database, clock) as program:
        program.headers["Authorization"] = f"Bearer {token}"
        body = {"name": "Skarn only", "text": 'town is "Skarn"'}
        assert program.post("/api/audiences", json=body).status_code == 200
        assert "the till (Signe Vale) saved the audience Skarn only" in said(museum)
        refused = program.get("/api/suppressions.csv")
        assert (refused.status_code, refused.json()["code"]) == (403, "not_allowed")
        assert refused.json()["detail"].startswith("This token may not save contacts to a file.")
        assert program.post("/api/tokens", json={"name": "more", "scopes": ["look"]}).status_code == 403
        line = admin.get("/api/tokens").json()[0]
        assert line["used_at"] is not None
        assert line["beginning"] == token[: len(line["beginning"])]
        assert token not in admin.get("/api/tokens").text
        clock.now += timedelta(days=31)
        assert program.get("/api/audiences").status_code == 401


def test_a_revoked_or_invented_token_opens_nothing(admin: TestClient, museum: Museum, clock: TestClock) -> None:
    token = make_token(admin, "look")
    with web_client(museum.database, clock) as program:
        for bearer in (token, "uvarovite_nonsense", "", "\N{LATIN SMALL LETTER E WITH ACUTE}"):
            answer = program.get("/api/audiences", headers={"Authorization": f"Bearer {bearer}".encode()})
            assert answer.status_code == (200 if bearer == token else 401)
        # A token that does not work is not helped by a cookie that would.
        assert admin.get("/api/audiences", headers={"Authorization": "Bearer nonsense"}).status_code == 401
        token_id = admin.get("/api/tokens").json()[0]["id"]
        assert admin.delete(f"/api/tokens/{token_id}").status_code == 204
        assert program.get("/api/audiences", headers={"Authorization": f"Bearer {token}"}).status_code == 401


def test_nobody_lends_what_they_have_not_or_what_no_program_may_have(
    admin: TestClient, museum: Museum, clock: TestClock
) -> None:
    with web_client(museum.database, clock) as oda:
        join(oda, invite(admin))
        more = oda.post("/api/tokens", json={"name": "till", "scopes": ["look", "release"]})
        assert (more.status_code, more.json()["code"]) == (403, "not_allowed")
        mine = oda.post("/api/tokens", json={"name": "till", "scopes": ["look"]}).json()["id"]
        assert len(oda.get("/api/tokens").json()) == 1
    for scope in ("accounts", "hand_out", "own_account"):
        answer = admin.post("/api/tokens", json={"name": "till", "scopes": [scope]})
        assert (answer.status_code, answer.json()["field"]) == (422, "scopes")
    # An administrator sees everybody's, and can revoke them.
    assert mine in {line["id"] for line in admin.get("/api/tokens").json()}
    assert admin.delete(f"/api/tokens/{mine}").status_code == 204
    with web_client(museum.database, clock) as again:
        again.post("/api/session", json={"email": ODA, "password": ODAS})
        assert again.get("/api/tokens").json()[0]["revoked_at"] is not None


def test_a_secret_that_is_told_once_is_kept_nowhere(admin: TestClient, museum: Museum) -> None:
    for number, (path, body) in enumerate(
        (
            ("/api/tokens", {"name": "till", "scopes": ["look"]}),
            ("/api/users", {"email": ODA, "role": "reader"}),
            ("/api/users/1/link", None),
        )
    ):
        headers = {KEY_HEADER: f"a-key-of-its-own-{number}"}
        told = admin.post(path, json=body, headers=headers)
        assert told.status_code == 200, told.text
        secret = told.json().get("token") or told.json()["url"].partition("#")[2]
        assert len(secret) > 30
        again = admin.post(path, json=body, headers=headers)
        assert (again.status_code, again.json()["code"]) == (409, "done_already")
        with museum.database.transaction() as tx:
            tables = [row.table_name for row in run_sql(
                tx, "SELECT table_name FROM information_schema.tables WHERE table_schema = 'public'"
            )]  # fmt: skip
            for table in tables:
                rows = run_sql(tx, f'SELECT CAST("{table}" AS text) AS words FROM "{table}"')
                assert not [row for row in rows if secret in row.words], table
