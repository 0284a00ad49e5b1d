"""Leaving and the preference page: forms without a script. What is done is recorded before it is confirmed."""

from collections.abc import Awaitable, Callable
from typing import Any

from fastapi import APIRouter, Request, Response

from uvarovite.core.responses import is_one_click
from uvarovite.core.responses.preferences import read_reason, read_wishes
from uvarovite.public.door import PublicDoor, body_of, visit_of
from uvarovite.public.pages import (
    UNCACHED,
    leave_page,
    leave_wording,
    not_ours,
    preference_page,
    preference_wording,
)
from uvarovite.services.responses import leaving, preferences


def add_leaving(
    router: APIRouter,
    door: PublicDoor,
    ask: Callable[..., Awaitable[Any]],
    answer: Callable[[Request, Awaitable[Response]], Awaitable[Response]],
) -> None:
    """Add the routes. A GET changes nothing about anybody: scanners follow every link."""

    @router.api_route("/u/{token}", methods=["GET", "HEAD"])
    async def ask_to_leave(token: str, request: Request) -> Response:
        async def show() -> Response:
            page = await ask(leaving.leave_page, token, request)
            return leave_page(page, token) if page else not_ours()

        return await answer(request, show())

    @router.post("/u/{token}")
    async def leave(token: str, request: Request) -> Response:
        body = await body_of(request)
        if body is None:
            return not_ours()
        one_click = is_one_click(body)
        if not one_click and b"stay=yes" in body:
            return await answer(request, _stay(token, request))
        if not one_click and b"leave=yes" not in body:
            return not_ours()

        async def let_go() -> Response:
            page = await door.work.run(
                leaving.leave_topic,
                door.database,
                token,
                visit_of(request),
                channel="one_click" if one_click else "link",
                keyring=door.keyring,
                why="" if one_click else read_reason(body),
                said=None if one_click else leave_wording,
                now=door.recorded_at(),
            )
            if page is None:
                return not_ours()
            # RFC 8058, section 3.2: no redirect, and nothing that a mail program would have to show.
            return Response(status_code=200, headers=UNCACHED) if one_click else leave_page(page, token)

        return await answer(request, let_go())

    async def _stay(token: str, request: Request) -> Response:
        page = await ask(leaving.leave_page, token, request)
        if page is None or not await ask(
            preferences.stay, token, request, wording=leave_wording(page), at=door.recorded_at()
        ):
            return not_ours()
        return leave_page(page, token, stayed=True)

    @router.api_route("/u/{token}/preferences", methods=["GET", "HEAD"])
    async def show_preferences(token: str, request: Request) -> Response:
        async def show() -> Response:
            page = await ask(preferences.preference_page, token, request)
            return preference_page(page) if page else not_ours()

        return await answer(request, show())

    @router.post("/u/{token}/preferences")
    async def save_preferences(token: str, request: Request) -> Response:
        wishes = read_wishes(await body_of(request) or b"")
        if wishes is None:
            return not_ours()

        async def save() -> Response:
            page = await ask(
                preferences.save_preferences,
                token,
                request,
                wishes=wishes,
                said=preference_wording,
                at=door.recorded_at(),
            )
            return preference_page(page) if page else not_ours()

        return await answer(request, save())
