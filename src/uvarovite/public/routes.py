"""Opens, clicks and leaving. No cookie, no script, no log-in; a token is all that a request brings.

Opens and clicks are answered first and recorded after the answer. Leaving is recorded before it is confirmed. A GET
changes nothing about anybody: scanners follow every link.
"""

import base64
from collections.abc import Awaitable, Callable
from typing import Any, TypeVar

from fastapi import APIRouter, BackgroundTasks, Request, Response
from fastapi.responses import RedirectResponse

from uvarovite.public.door import PublicDoor, visit_of
from uvarovite.public.leaving import add_leaving
from uvarovite.public.pages import UNCACHED, not_ours, try_again
from uvarovite.services.bounded import TooBusyError
from uvarovite.services.messages.pictures import picture_file
from uvarovite.services.responses import links as responses
from uvarovite.services.responses.links import TooManyVisits

Result = TypeVar("Result")

_PIXEL = base64.b64decode("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7")
_PICTURES = {"jpg": "image/jpeg", "png": "image/png", "gif": "image/gif"}
# Under the digest of its bytes a picture never changes.
_FOREVER = {"cache-control": "public, max-age=31536000, immutable", "x-content-type-options": "nosniff"}


def public_router(door: PublicDoor) -> APIRouter:
    """The routes for recipients."""
    router = APIRouter(include_in_schema=False)
    late: tuple[type[BaseException], ...] = (TooBusyError, *door.lost)
    turned_away: tuple[type[BaseException], ...] = (TooManyVisits, *late)

    def ask(do: Callable[..., Result], token: str, request: Request, **more: Any) -> Awaitable[Result]:
        seen = visit_of(request)
        return door.work.run(do, door.database, token, seen, keyring=door.keyring, now=door.clock(), **more)

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

    add_leaving(router, door, ask, answer)
    return router
