"""Each request has an id, one line in the log, and its place in the figures.

The line has the route and not the path: a path may hold a recipient's token, a query what somebody looked for.
"""

import re
import time
import uuid
from typing import Any

import structlog
from prometheus_client import Counter, Histogram
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

ID_HEADER = "X-Request-ID"
_ID = re.compile(r"[\w-]{8,64}", re.ASCII)

log = structlog.get_logger()

_REQUESTS = Counter("uvarovite_requests_total", "Requests that were answered", ["method", "route", "status"])
_SECONDS = Histogram("uvarovite_request_seconds", "How long requests took", ["method", "route"])


def request_id(scope: Scope) -> str:
    """The id of a request."""
    return str(scope.get("state", {}).get("request_id", ""))


class Requests:
    """Pure ASGI, around everything else. A proxy's id is taken over where it is one."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request, and write down how it went."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        given = Headers(scope=scope).get(ID_HEADER, "")
        this = given if _ID.fullmatch(given) else uuid.uuid4().hex
        scope.setdefault("state", {})["request_id"] = this
        status = 500
        began = time.perf_counter()

        async def send_with_id(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message).setdefault(ID_HEADER, this)
            await send(message)

        with structlog.contextvars.bound_contextvars(request=this):
            try:
                await self._app(scope, receive, send_with_id)
            except Exception:
                log.exception("a request failed", method=scope["method"], route=_route(scope))
                raise
            finally:
                took = time.perf_counter() - began
                method, route = scope["method"], _route(scope)
                _REQUESTS.labels(method, route, status).inc()
                _SECONDS.labels(method, route).observe(took)
                log.info(
                    "answered", method=method, route=route, status=status, ms=round(took * 1000), user=_user(scope)
                )


def _route(scope: Scope) -> str:
    route: Any = scope.get("route")
    return str(getattr(route, "path", "")) or "none"


def _user(scope: Scope) -> int | None:
    asker = scope.get("state", {}).get("asker")
    return asker.actor.user_id if asker else None
