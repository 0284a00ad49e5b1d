"""Signing up by a form, here or on any web site, and the page by which it is confirmed. No script, no cookie."""

from collections.abc import Awaitable, Callable

from fastapi import APIRouter, Request, Response

from uvarovite.public.door import PublicDoor, body_of, visit_of
from uvarovite.public.pages import confirm_page, form_page, not_ours
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.responses import signing_up


def add_signing_up(
    router: APIRouter,
    door: PublicDoor,
    answer: Callable[[Request, Awaitable[Response]], Awaitable[Response]],
    hash_address: Hash,
) -> None:
    """Add the routes. A GET signs nobody up and confirms nothing: scanners follow every link."""
    run, database, keyring = door.work.run, door.database, door.keyring

    @router.api_route("/s/{key}", methods=["GET", "HEAD"])
    async def show_form(key: str, request: Request) -> Response:
        async def show() -> Response:
            page = await run(
                signing_up.form_page,
                database,
                key,
                language=request.query_params.get("language"),
                accept=request.headers.get("accept-language"),
                keyring=keyring,
                now=door.clock(),
            )
            return form_page(page) if page else not_ours()

        return await answer(request, show())

    @router.post("/s/{key}")
    async def send_in(key: str, request: Request) -> Response:
        body = await body_of(request)
        if body is None:
            return not_ours()
        # Which page it was filled in on, as far as the browser says.
        shown_on = request.headers.get("referer") or request.headers.get("origin") or f"/s/{key}"

        async def take() -> Response:
            visit = visit_of(request)
            page = await run(
                signing_up.send_in,
                database,
                key,
                visit,
                body,
                page=shown_on,
                accept=request.headers.get("accept-language"),
                keyring=keyring,
                now=door.clock(),
            )
            return form_page(page) if page else not_ours()

        return await answer(request, take())

    @router.api_route("/c/{token}", methods=["GET", "HEAD"])
    async def ask_to_confirm(token: str, request: Request) -> Response:
        async def show() -> Response:
            page = await run(signing_up.confirm_page, database, token, keyring=keyring, now=door.clock())
            return confirm_page(page) if page else not_ours()

        return await answer(request, show())

    @router.post("/c/{token}")
    async def confirm(token: str, request: Request) -> Response:
        async def do() -> Response:
            page = await run(
                signing_up.confirm,
                database,
                token,
                visit_of(request),
                keyring=keyring,
                hasher=hash_address,
                now=door.clock(),
                at=door.recorded_at(),
            )
            return confirm_page(page) if page else not_ours()

        return await answer(request, do())
