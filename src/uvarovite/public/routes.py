"""Pages for recipients, and the pictures of messages. No cookie, no script, no log-in; a token is all that a request brings."""

from collections.abc import Awaitable, Callable
from typing import Any, TypeVar

from fastapi import APIRouter, Request, Response

from uvarovite.public.copies import add_copies
from uvarovite.public.door import PublicDoor, visit_of
from uvarovite.public.leaving import add_leaving
from uvarovite.public.pages import not_ours, try_again
from uvarovite.public.recording import Recorder
from uvarovite.public.signing_up import add_signing_up
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.messages.pictures import picture_file
from uvarovite.services.responses.visits import TooManyVisits

Result = TypeVar("Result")

_PICTURES = {"jpg": "image/jpeg", "png": "image/png", "gif": "image/gif"}
# Under the digest of its bytes a picture never changes.
_FOREVER = {"cache-control": "public, max-age=31536000, immutable", "x-content-type-options": "nosniff"}


def public_router(door: PublicDoor, hash_address: Hash, recorder: Recorder) -> APIRouter:
    """The routes for recipients."""
    router = APIRouter(include_in_schema=False)

    def ask(do: Callable[..., Result], token: str, request: Request, **more: Any) -> Awaitable[Result]:
        seen = visit_of(request)
        return door.work.run(do, door.database, token, seen, keyring=door.keyring, now=door.clock(), **more)

    async def answer(request: Request, made: Awaitable[Response]) -> Response:
        try:
            return await made
        except TooManyVisits:
            return try_again(request.headers.get("accept-language"), 429)
        except door.late:
            return try_again(request.headers.get("accept-language"), 503)

    @router.api_route("/p/{digest}.{kind}", methods=["GET", "HEAD"])
    async def picture(digest: str, kind: str, request: Request) -> Response:
        async def show() -> Response:
            found = await door.work.run(picture_file, door.database, digest)
            if found is None or found.kind != kind:
                return not_ours()
            return Response(found.content, media_type=_PICTURES[kind], headers=_FOREVER)

        return await answer(request, show())

    add_copies(router, door, recorder, answer)
    add_leaving(router, door, ask, answer)
    add_signing_up(router, door, answer, hash_address)
    return router
