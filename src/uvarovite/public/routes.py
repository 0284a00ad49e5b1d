"""Opens, clicks and leaving. No cookie, no script, no log-in; a token is all that a request brings.

Opens and clicks are answered first and recorded after the answer. Leaving is recorded before it is confirmed. A GET
changes nothing about anybody: scanners follow every link.
"""

import base64
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar

from fastapi import APIRouter, BackgroundTasks, Request, Response
from fastapi.responses import RedirectResponse

from uvarovite.core.responses import Keyring, is_one_click
from uvarovite.core.values import origin_key
from uvarovite.public.pages import UNCACHED, leave_page, not_ours, try_again
from uvarovite.services.bounded import BoundedWork, TooBusyError
from uvarovite.services.messages.pictures import picture_file
from uvarovite.services.responses import links as responses
from uvarovite.services.responses.links import TooManyVisits, Visit

Result = TypeVar("Result")

_PIXEL = base64.b64decode("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7")
_PICTURES = {"jpg": "image/jpeg", "png": "image/png", "gif": "image/gif"}
# Under the digest of its bytes a picture never changes.
_FOREVER = {"cache-control": "public, max-age=31536000, immutable", "x-content-type-options": "nosniff"}
# A form that leaves is a few bytes long; whatever is longer is none.
_LARGEST_BODY = 4_096


def _visit(request: Request) -> Visit:
    origin = origin_key(request.client.host if request.client else None)
    return Visit(method=request.method, agent=request.headers.get("user-agent", ""), origin=origin)


@dataclass(frozen=True, slots=True, kw_only=True)
class PublicDoor:
    """What the pages for recipients work with: connections and threads of their own, so that nothing that an account does
    makes them wait. `lost` are the faults of a database that does not answer in time. `recorded_at` is for tests: an
    instant that is recorded is else the database's.
    """

    database: Any
    work: BoundedWork
    keyring: Keyring
    clock: Callable[[], datetime]
    recorded_at: Callable[[], datetime | None]
    lost: tuple[type[BaseException], ...]


def public_router(door: PublicDoor) -> APIRouter:
    """The routes for recipients."""
    router = APIRouter(include_in_schema=False)
    late: tuple[type[BaseException], ...] = (TooBusyError, *door.lost)
    turned_away: tuple[type[BaseException], ...] = (TooManyVisits, *late)

    def ask(do: Callable[..., Result], token: str, request: Request) -> Awaitable[Result]:
        return door.work.run(do, door.database, token, _visit(request), keyring=door.keyring, now=door.clock())

    async def record(do: Callable[..., Any], token: str, request: Request) -> None:
        # Nobody waits for it; what is too much is left out.
        try:
            await ask(do, token, request)
        except turned_away:
            return

    async def answer(request: Request, made: Awaitable[Response]) -> Response:
        try:
            return await made
        except TooManyVisits:
            return try_again(request.headers.get("accept-language"), 429)
        except late:
            return try_again(request.headers.get("accept-language"), 503)

    @router.api_route("/o/{token}.gif", methods=["GET", "HEAD"])
    async def opened(token: str, request: Request, later: BackgroundTasks) -> Response:
        later.add_task(record, responses.record_open, token, request)
        return Response(_PIXEL, media_type="image/gif", headers=UNCACHED, background=later)

    @router.api_route("/p/{digest}.{kind}", methods=["GET", "HEAD"])
    async def picture(digest: str, kind: str, request: Request) -> Response:
        async def show() -> Response:
            found = await door.work.run(picture_file, door.database, digest)
            if found is None or found.kind != kind:
                return not_ours()
            return Response(found.content, media_type=_PICTURES[kind], headers=_FOREVER)

        return await answer(request, show())

    @router.api_route("/r/{token}", methods=["GET", "HEAD"])
    async def clicked(token: str, request: Request, later: BackgroundTasks) -> Response:
        async def lead() -> Response:
            target = await ask(responses.click_target, token, request)
            if target is None:
                return not_ours()
            later.add_task(record, responses.record_click, token, request)
            return RedirectResponse(target, 302, headers=UNCACHED, background=later)

        return await answer(request, lead())

    @router.api_route("/u/{token}", methods=["GET", "HEAD"])
    async def ask_to_leave(token: str, request: Request) -> Response:
        async def show() -> Response:
            page = await ask(responses.leave_page, token, request)
            return leave_page(page) if page else not_ours()

        return await answer(request, show())

    @router.post("/u/{token}")
    async def leave(token: str, request: Request) -> Response:
        body = b""
        async for chunk in request.stream():
            body += chunk
            if len(body) > _LARGEST_BODY:
                return not_ours()
        one_click = is_one_click(body)
        if not one_click and b"leave=yes" not in body:
            return not_ours()

        async def let_go() -> Response:
            page = await door.work.run(
                responses.leave_topic,
                door.database,
                token,
                _visit(request),
                channel="one_click" if one_click else "link",
                keyring=door.keyring,
                now=door.recorded_at(),
            )
            if page is None:
                return not_ours()
            # RFC 8058, section 3.2: no redirect, and nothing that a mail program would have to show.
            return Response(status_code=200, headers=UNCACHED) if one_click else leave_page(page)

        return await answer(request, let_go())

    return router
