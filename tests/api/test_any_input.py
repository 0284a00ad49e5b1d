"""Whatever is sent to whichever route: it is taken, or refused with words; it is never our fault."""

import json
from collections.abc import Iterator
from dataclasses import replace
from typing import Any
from urllib.parse import quote

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import SecretStr

from tests.support.any_json import any_value
from tests.support.museum import Museum
from tests.support.web import TestClock, sign_in, web_client
from uvarovite.bootstrap.web import build_web
from uvarovite.services.errors import ServiceRefusal
from uvarovite.settings import Settings
from uvarovite.store.database import Database

# Signing out would end the test, and a pull reads from wherever the source says.
LEFT_OUT = {
    ("delete", "/api/session"),
    ("delete", "/api/own/sessions/{session_id}"),
    ("delete", "/api/users/{user_id}/sessions"),
    ("post", "/api/session/link"),
    ("post", "/api/sources/{source_id}/pull"),
}


def _document() -> dict[str, Any]:
    told = Settings(
        secret_key=SecretStr("no secret is needed here"), database_url=SecretStr("postgresql://nowhere/nothing")
    )
    return build_web(told, Database(told.database())).openapi()


DOCUMENT = _document()
TAGS = sorted({tag for routes in DOCUMENT["paths"].values() for route in routes.values() for tag in route["tags"]})


@pytest.fixture
def client(museum: Museum) -> Iterator[TestClient]:
    """Signed in at a museum that has released a run; nothing leaves this process."""
    museum.release()
    with web_client(museum.database, TestClock()) as made:
        sign_in(made, museum.database)
        app = made.app
        assert isinstance(app, FastAPI)

        def shut(*_: Any, **__: Any) -> Any:
            raise ServiceRefusal("shut", "Nothing leaves this process.")

        doors = app.state.api
        app.state.api = replace(
            doors,
            send_test=shut,
            send_table=shut,
            try_relay=shut,
            check_domain=shut,
            sources=replace(doors.sources, tables=shut, preview=shut),
        )
        yield made


def _routes(tag: str) -> list[tuple[str, str, dict[str, Any]]]:
    """The routes of a part of the API; what takes away comes last, so that the others find something there."""
    routes = [
        (method, path, route)
        for path, methods in DOCUMENT["paths"].items()
        for method, route in methods.items()
        if tag in route["tags"] and (method, path) not in LEFT_OUT
    ]
    return sorted(routes, key=lambda one: one[0] == "delete")


def _asked(path: str, route: dict[str, Any]) -> st.SearchStrategy[tuple[str, dict[str, Any], Any]]:
    """A path, a query and a body for a route; what is no JSON (an upload) goes without a body."""
    named = DOCUMENT["components"]["schemas"]
    told = {place: {} for place in ("path", "query")}
    for one in route.get("parameters", []):
        value = any_value(one["schema"], named)
        told[one["in"]][one["name"]] = value if one.get("required") else st.none() | value
    content = route.get("requestBody", {}).get("content", {}).get("application/json")

    def fill(values: dict[str, Any]) -> str:
        # Half of a surrogate pair cannot be said in an address; the browser could not send it either.
        return path.format(
            **{key: quote(str(value).replace("\ud800", "") or " ", safe="") for key, value in values.items()}
        )

    return st.tuples(
        st.fixed_dictionaries(told["path"]).map(fill),
        st.fixed_dictionaries(told["query"]).map(
            lambda query: {k: str(v).replace("\ud800", "") for k, v in query.items() if v is not None}
        ),
        any_value(content["schema"], named) if content else st.none(),
    )


def _try(
    client: TestClient, method: str, asked: st.SearchStrategy[tuple[str, dict[str, Any], Any]], *, takes_body: bool
) -> None:
    # There are some 120 routes; a test of one function tries four times as many. A path and a query say less than a body.
    @settings(
        max_examples=settings.default.max_examples // (4 if takes_body else 8),
        deadline=None,
        database=None,
        suppress_health_check=list(HealthCheck),
    )
    @given(asked)
    def take_or_refuse(one: tuple[str, dict[str, Any], Any]) -> None:
        url, query, body = one
        # A fault of ours that nobody catches is raised here.
        headers = {"content-type": "application/json"}
        answer = client.request(method, url, params=query, content=json.dumps(body), headers=headers)
        assert answer.status_code < 500, answer.text
        if answer.status_code >= 400:
            problem = answer.json()
            assert answer.headers["content-type"] == "application/problem+json"
            assert problem["code"]
            assert problem["detail"]

    take_or_refuse()


@pytest.mark.parametrize("tag", TAGS)
def test_any_input_is_taken_or_refused_with_words(client: TestClient, tag: str) -> None:
    for method, path, route in _routes(tag):
        _try(client, method, _asked(path, route), takes_body="requestBody" in route)
