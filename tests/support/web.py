"""The web application in this process, over a real database, spoken to by HTTP."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Any

import httpx2
from fastapi.routing import APIRoute, _EffectiveRouteContext, _RouterIncludeContext
from fastapi.testclient import TestClient
from pydantic import SecretStr

from tests.support.museum import NOW, PUBLIC_URL, SECRET
from uvarovite.api.guard import CSRF_HEADER
from uvarovite.api.routes import ROUTERS
from uvarovite.bootstrap.web import build_web
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts.users import create_user
from uvarovite.settings import Settings
from uvarovite.store.database import Database

EMAIL, PASSWORD = "signe.vale@skarnmuseum.example", "garnet-lantern-41"


class TestClock:
    """A clock that stands still until it is moved."""

    __test__ = False

    def __init__(self) -> None:
        self.now = NOW

    def __call__(self) -> datetime:
        return self.now


def _ready_once() -> None:
    """Make the routes that all applications share ready once: for each anew it takes half a second, most of it types."""
    make = _EffectiveRouteContext.from_api_route.__func__  # type: ignore[attr-defined]
    shared = {id(route) for router in ROUTERS for route in router.routes}
    ready: dict[int, _EffectiveRouteContext] = {}

    def once(
        cls: type[_EffectiveRouteContext], *, original_route: APIRoute, include_context: _RouterIncludeContext
    ) -> _EffectiveRouteContext:
        key = id(original_route)
        if key not in shared:
            made: _EffectiveRouteContext = make(cls, original_route=original_route, include_context=include_context)
            return made
        if key not in ready:
            ready[key] = make(cls, original_route=original_route, include_context=include_context)
        return ready[key]

    _EffectiveRouteContext.from_api_route = classmethod(once)  # type: ignore[method-assign, assignment]


_ready_once()


class _InOneStep(httpx2.BaseTransport):
    """Asks an application in its own thread: one step there and back, where Starlette's takes seven at a millisecond each."""

    def __init__(self, client: TestClient) -> None:
        self._client = client
        self._asks = httpx2.ASGITransport(client.app, client=("testclient", 50_000))

    def handle_request(self, request: httpx2.Request) -> httpx2.Response:
        """The whole answer. A fault that nobody catches is raised here."""
        assert self._client.portal is not None
        request.read()
        return self._client.portal.call(self._ask, request)

    async def _ask(self, request: httpx2.Request) -> httpx2.Response:
        answer = await self._asks.handle_async_request(request)
        told = httpx2.ByteStream(await answer.aread())
        # What was fetched is noted a moment later; tests look at once.
        await self._client.app.state.recorder.settled()  # type: ignore[attr-defined]
        return httpx2.Response(answer.status_code, headers=answer.headers, stream=told, request=request)


@contextmanager
def web_client(database: Database, clock: TestClock, **settings: Any) -> Iterator[TestClient]:
    """A browser without a session."""
    told = Settings(
        database_url=SecretStr(database.url), secret_key=SecretStr(SECRET.decode()), public_url=PUBLIC_URL, **settings
    )
    with TestClient(build_web(told, database, clock), base_url=PUBLIC_URL, follow_redirects=False) as client:
        client._transport = _InOneStep(client)
        # What is told for as long as somebody looks ends at once here; tests/road/test_live.py looks.
        client.app.state.api.live.close()  # type: ignore[attr-defined]
        yield client


def sign_in(client: TestClient, database: Database, *, make: bool = True) -> None:
    """Make the user and sign the client in."""
    if make:
        create_user(database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    answer = client.post("/api/session", json={"email": EMAIL, "password": PASSWORD})
    assert answer.status_code == 200, answer.text
    client.headers[CSRF_HEADER] = answer.json()["csrf_token"]
