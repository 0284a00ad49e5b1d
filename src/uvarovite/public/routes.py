"""Opens, clicks and leaving. No cookie, no script, no log-in; a token is all that a request brings.

Opens and clicks are answered first and recorded after the answer. Leaving is recorded before it is confirmed. A GET
changes nothing about anybody: scanners follow every link.
"""

import base64
import html
from collections.abc import Awaitable, Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any, TypeVar

from fastapi import APIRouter, BackgroundTasks, Request, Response
from fastapi.responses import HTMLResponse, RedirectResponse

from uvarovite.core.responses import Keyring, is_one_click
from uvarovite.core.values import origin_key
from uvarovite.public.words import leave_words
from uvarovite.services import responses
from uvarovite.services.bounded import BoundedWork, TooBusyError
from uvarovite.services.responses import LeavePage, TooManyVisits, Visit

Result = TypeVar("Result")

_PIXEL = base64.b64decode("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7")
_UNCACHED = {"Cache-Control": "no-store", "Referrer-Policy": "no-referrer"}
# A form that leaves is a few bytes long; whatever is longer is none.
_LARGEST_BODY = 4_096

_STYLE = """
body{margin:0;background:#faf8f2;color:#18211c;font:18px/1.5 system-ui,sans-serif}
main{max-width:34rem;margin:12vh auto 0;padding:0 1.25rem}
h1{font-size:1.6rem;line-height:1.25;margin:0 0 .75rem}
p{margin:0 0 1.25rem}.who{color:#4d5a52;margin:0 0 1.5rem;font-weight:600}
button{font:inherit;font-weight:600;background:#1b7350;color:#fff;border:0;border-radius:4px;padding:.7rem 1.2rem}
button:focus-visible{outline:3px solid #18211c;outline-offset:3px}
@media (prefers-color-scheme:dark){body{background:#10201a;color:#eaf3ee}.who{color:#b9cfc4}}
"""


def _visit(request: Request) -> Visit:
    origin = origin_key(request.client.host if request.client else None)
    return Visit(method=request.method, agent=request.headers.get("user-agent", ""), origin=origin)


def _page(title: str, body: str, *, language: str = "en", status: int = 200) -> HTMLResponse:
    policy = (
        "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"
    )
    return HTMLResponse(
        f"<!doctype html><html lang='{language}'><head><meta charset='utf-8'><title>{html.escape(title)}</title>"
        f"<meta name='viewport' content='width=device-width, initial-scale=1'><meta name='robots' content='noindex'>"
        f"<style>{_STYLE}</style></head><body><main>{body}</main></body></html>",
        status,
        headers={**_UNCACHED, "Content-Security-Policy": policy},
    )


def _not_ours() -> HTMLResponse:
    return _page(
        "This link is not complete",
        "<h1>This link is not complete</h1><p>It may have been cut off on its way. Open it from the message again, "
        "or answer the message and say what you would like.</p>",
        status=404,
    )


def _later(request: Request, status: int) -> HTMLResponse:
    """Not now: what was asked for was not done, and pressing again is the way to it."""
    language, words = leave_words(request.headers.get("accept-language"))
    page = _page(
        words.busy,
        f"<h1>{html.escape(words.busy)}</h1><p>{html.escape(words.busy_more)}</p>",
        language=language,
        status=status,
    )
    page.headers["Retry-After"] = str(int(responses.VISITS_WINDOW.total_seconds()))
    return page


def _leave_page(page: LeavePage) -> HTMLResponse:
    language, words = leave_words(page.language)
    names = {"organisation": page.organisation, "topic": page.topic}

    def say(text: str) -> str:
        return html.escape(text.format(**names))

    who = f"<p class='who'>{html.escape(page.organisation)}</p>"
    if page.left:
        body = f"{who}<h1>{say(words.done)}</h1><p>{say(words.done_more)}</p>"
        return _page(words.done.format(**names), body, language=language)
    form = f"<form method='post'><button name='leave' value='yes'>{say(words.button)}</button></form>"
    body = f"{who}<h1>{say(words.question)}</h1><p>{say(words.explain)}</p>{form}"
    return _page(words.question.format(**names), body, language=language)


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
            return _later(request, 429)
        except late:
            return _later(request, 503)

    @router.api_route("/o/{token}.gif", methods=["GET", "HEAD"])
    async def opened(token: str, request: Request, later: BackgroundTasks) -> Response:
        later.add_task(record, responses.record_open, token, request)
        return Response(_PIXEL, media_type="image/gif", headers=_UNCACHED, background=later)

    @router.api_route("/r/{token}", methods=["GET", "HEAD"])
    async def clicked(token: str, request: Request, later: BackgroundTasks) -> Response:
        async def lead() -> Response:
            target = await ask(responses.click_target, token, request)
            if target is None:
                return _not_ours()
            later.add_task(record, responses.record_click, token, request)
            return RedirectResponse(target, 302, headers=_UNCACHED, background=later)

        return await answer(request, lead())

    @router.api_route("/u/{token}", methods=["GET", "HEAD"])
    async def ask_to_leave(token: str, request: Request) -> Response:
        async def show() -> Response:
            page = await ask(responses.leave_page, token, request)
            return _leave_page(page) if page else _not_ours()

        return await answer(request, show())

    @router.post("/u/{token}")
    async def leave(token: str, request: Request) -> Response:
        body = b""
        async for chunk in request.stream():
            body += chunk
            if len(body) > _LARGEST_BODY:
                return _not_ours()
        one_click = is_one_click(body)
        if not one_click and b"leave=yes" not in body:
            return _not_ours()

        async def let_go() -> Response:
            page = await door.work.run(
                responses.leave_topic,
                door.database,
                token,
                _visit(request),
                way="one_click" if one_click else "link",
                keyring=door.keyring,
                now=door.recorded_at(),
            )
            if page is None:
                return _not_ours()
            # RFC 8058, section 3.2: no redirect, and nothing that a mail program would have to show.
            return Response(status_code=200, headers=_UNCACHED) if one_click else _leave_page(page)

        return await answer(request, let_go())

    return router
