"""Pixels and tracked links: answered before anything else looks at the request, since they come in floods."""

import base64
from functools import cache
from urllib.parse import unquote

from prometheus_client import Counter
from starlette.datastructures import Headers
from starlette.responses import RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from uvarovite.core.responses import Purpose, Token, read_token
from uvarovite.core.values import origin_key
from uvarovite.public.door import PublicDoor
from uvarovite.public.pages import UNCACHED, not_ours, try_again
from uvarovite.public.recording import Recorder, Targets, VisitLimits
from uvarovite.services.responses.tracking import AskedLink, Seen
from uvarovite.services.responses.visits import VISITS_PER_ORIGIN, VISITS_PER_TOKEN, VISITS_WINDOW

_PIXEL = base64.b64decode("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7")
_ANSWERED = Counter("uvarovite_responses_total", "Pixels and tracked links that were asked for", ["kind", "status"])
_OPENS = frozenset({Purpose.OPEN, Purpose.COUNTED_OPEN})
_CLICKS = frozenset({Purpose.CLICK, Purpose.COUNTED_CLICK, Purpose.UNSEEN})
_ASIDE = {**UNCACHED, "X-Content-Type-Options": "nosniff"}


@cache
def _counter(kind: str, status: int) -> Counter:
    return _ANSWERED.labels(kind, status)


class Tracking:
    """Pure ASGI, around everything else; whatever is no pixel and no tracked link goes on to the application."""

    def __init__(self, app: ASGIApp, *, door: PublicDoor, recorder: Recorder) -> None:
        self._app = app
        self._door = door
        self._recorder = recorder
        self._targets = Targets(door)
        self._visits = VisitLimits(VISITS_WINDOW, door.clock)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a pixel or a link."""
        path = scope.get("path", "")
        if scope["type"] != "http" or path[:3] not in ("/o/", "/r/") or scope["method"] not in ("GET", "HEAD"):
            await self._app(scope, receive, send)
            return
        kind = "open" if path[1] == "o" else "click"
        answer = await (self._opened(scope, path) if kind == "open" else self._clicked(scope, path))
        _counter(kind, answer.status_code).inc()
        await answer(scope, receive, send)

    async def _opened(self, scope: Scope, path: str) -> Response:
        token = read_token(unquote(path[3:].removesuffix(".gif")), _OPENS, self._door.keyring)
        # A provider fetches pictures for many of its people from few addresses: opens are counted by token alone. That of a whole
        # run comes from everybody.
        if token is not None and (
            token.purpose is Purpose.COUNTED_OPEN
            or self._visits.count((Purpose.OPEN, token.delivery_id)) <= VISITS_PER_TOKEN
        ):
            self._note(scope, token, None)
        return Response(_PIXEL, media_type="image/gif", headers=_ASIDE)

    async def _clicked(self, scope: Scope, path: str) -> Response:
        token = read_token(unquote(path[3:]), _CLICKS, self._door.keyring)
        if token is None:
            return not_ours()
        is_counted = token.purpose is Purpose.COUNTED_CLICK
        client = scope.get("client")
        if (
            not is_counted and self._visits.count((Purpose.CLICK, token.delivery_id)) > VISITS_PER_TOKEN
        ) or self._visits.count(origin_key(client[0] if client else None)) > VISITS_PER_ORIGIN:
            return try_again(Headers(scope=scope).get("accept-language"), 429)
        if token.purpose is Purpose.UNSEEN:
            self._note(scope, token, None)
            return not_ours()
        asked = (
            AskedLink(0, token.number, token.delivery_id) if is_counted else AskedLink(token.delivery_id, token.number)
        )
        try:
            target = await self._targets.of(asked)
        except self._door.late:
            return try_again(Headers(scope=scope).get("accept-language"), 503)
        if target is None:
            return not_ours()
        self._note(scope, token, token.number)
        return RedirectResponse(target, 302, headers=_ASIDE)

    def _note(self, scope: Scope, token: Token, link: int | None) -> None:
        agent = Headers(scope=scope).get("user-agent", "")
        is_counted = token.purpose in (Purpose.COUNTED_OPEN, Purpose.COUNTED_CLICK)
        self._recorder.note(
            Seen(
                0 if is_counted else token.delivery_id,
                link,
                scope["method"],
                agent,
                self._door.clock(),
                unseen=token.purpose is Purpose.UNSEEN,
                counted_run=token.delivery_id if is_counted else None,
            )
        )
