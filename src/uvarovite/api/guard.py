"""What stands before every route: who is asking, how much may be sent, and the headers of every answer.

A body is bounded before it is read, and a large one is read for somebody only who is signed in and means it.
"""

import asyncio
from collections.abc import Callable, Mapping

from fastapi import Request
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from uvarovite.api.problems import problem
from uvarovite.services.accounts.asker import Asker, asking

COOKIE = "uvarovite_session"
CSRF_HEADER = "X-Uvarovite-CSRF"
READING = frozenset({"GET", "HEAD", "OPTIONS"})

# What somebody may send who has not signed in: an address and a password. A hundred thousand ticked rows, or a long
# message, are the largest thing that is no file.
STRANGERS_BYTES, USUAL_BYTES = 16 * 1024, 4 * 1024 * 1024

# Mantine sets styles on elements; everything else comes from here alone. Letters are shown in sandboxed frames.
_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; "
    "frame-src 'self'; frame-ancestors 'none'; object-src 'none'; base-uri 'none'; form-action 'self'"
)


def guard_headers(headers: MutableHeaders, *, path: str, over_tls: bool) -> None:
    """The headers of an answer, where it does not bring its own."""
    headers.setdefault("X-Content-Type-Options", "nosniff")
    headers.setdefault("X-Frame-Options", "DENY")
    headers.setdefault("Referrer-Policy", "same-origin")
    headers.setdefault("Content-Security-Policy", _POLICY)
    if path.startswith("/api/"):
        headers.setdefault("Cache-Control", "no-store")
    if over_tls:
        headers.setdefault("Strict-Transport-Security", "max-age=31536000")


def bearer_of(headers: Headers) -> str | None:
    """The token that a program brings (RFC 6750, section 2.1), if any."""
    kind, _, token = headers.get("authorization", "").partition(" ")
    return token.strip() if kind.lower() == "bearer" else None


class Guard:
    """Pure ASGI: nothing is buffered on the way. `who` knows a session by its cookie and a program by its token;
    `large` are the bytes that a path takes where it takes more than usual. Whoever is asking stands in
    `request.state.asker` afterwards.
    """

    def __init__(
        self,
        app: ASGIApp,
        *,
        who: Callable[[str | None, str | None], Asker | None],
        large: Mapping[str, int],
        over_tls: bool,
    ) -> None:
        self._app = app
        self._who = who
        self._large = large
        self._over_tls = over_tls

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Look at a request before anything of its body is read."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        path = scope["path"]

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                guard_headers(MutableHeaders(scope=message), path=path, over_tls=self._over_tls)
            await send(message)

        request = Request(scope)
        cookie, bearer = request.cookies.get(COOKIE), bearer_of(request.headers)
        known = path.startswith("/api/") and (cookie or bearer is not None)
        asker = await asyncio.to_thread(self._who, cookie, bearer) if known else None
        request.state.asker = asker
        asking.set(asker.actor.user_id if asker else None)
        reading = scope["method"] in READING
        meant = asker is not None and (reading or asker.means_it(request.headers.get(CSRF_HEADER)))
        limit = self._large.get(path, USUAL_BYTES) if meant else STRANGERS_BYTES
        if _claimed(request.headers) > limit:
            refused = _refused(asker, limit) if meant or asker is None else problem(403, "csrf", STALE)
            await refused(scope, receive, send_guarded)
            return
        await self._app(scope, _bounded(receive, asker, limit), send_guarded)


STALE = "This page is out of date; load it again."


def _claimed(headers: Headers) -> int:
    """How long a body says that it is; what says nothing is counted on its way."""
    text = headers.get("content-length", "0")
    return int(text) if text.isascii() and text.isdigit() else 0


def _too_large(limit: int) -> str:
    size = f"{limit >> 20} MB" if limit >= 1 << 20 else f"{limit >> 10} kB"
    return f"This is larger than {size}. Nothing was changed. Send less at a time."


def _refused(asker: Asker | None, limit: int) -> ASGIApp:
    if asker is None:
        return problem(401, "not_signed_in", "Sign in first.")
    return problem(413, "too_large", _too_large(limit))


def _bounded(receive: Receive, asker: Asker | None, limit: int) -> Receive:
    """The body as it comes in, until it has become too long."""
    seen = 0

    async def counted() -> Message:
        nonlocal seen
        message = await receive()
        if message["type"] == "http.request":
            seen += len(message.get("body", b""))
            if seen > limit:
                # What reads a body lets this one through as it is.
                raise HTTPException(413 if asker else 401, _too_large(limit) if asker else "Sign in first.")
        return message

    return counted
