"""What each role may do: every route is asked by everybody."""

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests.api.test_any_input import DOCUMENT
from tests.support.museum import NOW, Museum
from tests.support.web import PASSWORD, TestClock, web_client
from uvarovite.api.guard import CSRF_HEADER
from uvarovite.core.accounts import PERMISSIONS, SYSTEM, Permission, Role, permissions_of
from uvarovite.services.accounts.users import create_user

# What somebody does who has not come in yet.
OPEN = {
    ("post", "/api/session"),
    ("post", "/api/session/link"),
    ("post", "/api/session/invitation"),
    ("post", "/api/session/invitation/look"),
}
ROUTES = [(method, path, route) for path, methods in DOCUMENT["paths"].items() for method, route in methods.items()]


def test_every_route_names_one_permission() -> None:
    known = {str(one) for one in Permission}
    for method, path, route in ROUTES:
        told: list[dict[str, list[str]]] = route.get("security", [])
        if (method, path) in OPEN:
            assert told == []
            continue
        scopes = [tuple(way["session"]) for way in told if "session" in way]
        assert scopes == [tuple(way["token"]) for way in told if "token" in way], (method, path)
        assert len(scopes) == 1, (method, path)
        assert len(scopes[0]) == 1, (method, path)
        assert scopes[0][0] in known


def test_what_only_shows_needs_no_more_than_looking_where_nothing_leaves_the_house() -> None:
    """A route that changes something never gets by with looking, but for those that only work something out."""
    works_out = {
        "/api/criteria", "/api/criteria/samples", "/api/criteria/complete", "/api/clearance", "/api/clearance/people",
        "/api/clearance/without", "/api/clearance/explain", "/api/lens", "/api/lens/person", "/api/campaigns/{campaign_id}/branches", "/api/lens/source", "/api/inlay", "/api/look", "/api/contacts/table", "/api/contacts/count",
    }  # fmt: skip
    by_looking = {
        path
        for method, path, route in ROUTES
        if method != "get" and any(way.get("session") == ["look"] for way in route.get("security", []))
    }
    assert by_looking <= works_out, by_looking - works_out


@pytest.fixture(params=list(Role))
def somebody(request: pytest.FixtureRequest, museum: Museum) -> Iterator[tuple[TestClient, Role]]:
    """Somebody of each role, signed in."""
    role: Role = request.param
    email = f"{role}@skarnmuseum.example"
    create_user(museum.database, SYSTEM, email=email, name=role.title(), password=PASSWORD, role=role, now=NOW)
    with web_client(museum.database, TestClock()) as client:
        me: dict[str, Any] = client.post("/api/session", json={"email": email, "password": PASSWORD}).json()
        client.headers[CSRF_HEADER] = me["csrf_token"]
        assert me["role"] == role
        assert set(me["permissions"]) == permissions_of(role)
        yield client, role


def test_a_role_gets_through_every_door_of_its_own_and_no_other(somebody: tuple[TestClient, Role]) -> None:
    client, role = somebody
    refused = 0
    for method, path, route in ROUTES:
        if (method, path) in OPEN or path.startswith("/api/own") or (method, path) == ("delete", "/api/session"):
            continue
        permission = Permission(route["security"][0]["session"][0])
        # Nothing that is asked for is there, and no body is one: whoever may is refused for that, or finds nothing.
        address = path
        for parameter in route.get("parameters", []):
            if parameter["in"] == "path":
                address = address.replace(f"{{{parameter['name']}}}", "999999")
        answer = client.request(method, address, content=b"{" if route.get("requestBody") else None)
        told = answer.json().get("code") if answer.headers["content-type"].endswith("problem+json") else None
        if permission in permissions_of(role):
            assert told != "not_allowed", (method, path)
            assert answer.status_code != 403, (method, path)
        else:
            assert (answer.status_code, told) == (403, "not_allowed"), (method, path, answer.text)
            assert PERMISSIONS[permission].words in answer.json()["detail"]
            refused += 1
    assert refused == 0 if role is Role.ADMINISTRATOR else refused > 10
