"""Messages in a browser. What an author wrote is shown in a sandbox of its own: it can do nothing here but be read."""

from collections.abc import Awaitable, Callable

from fastapi import APIRouter, Request, Response
from fastapi.responses import HTMLResponse

from uvarovite.core.responses import Purpose, read_token
from uvarovite.public.door import PublicDoor, visit_of
from uvarovite.public.pages import UNCACHED, not_ours
from uvarovite.public.recording import Recorder
from uvarovite.services.responses.copies import browser_copy
from uvarovite.services.responses.tracking import Seen
from uvarovite.services.responses.visits import count_visit

_COPIES = frozenset({Purpose.COPY, Purpose.PUBLIC_COPY})
_POLICY = (
    "default-src 'none'; img-src http: https: data:; style-src 'unsafe-inline'; form-action 'none'; base-uri 'none'; "
    "frame-ancestors 'none'; sandbox allow-popups allow-popups-to-escape-sandbox"
)
_ASIDE = {"Content-Security-Policy": _POLICY, "Referrer-Policy": "no-referrer", "X-Content-Type-Options": "nosniff"}
# Taken back, it is gone at once: whoever keeps it on the way has to ask again.
_FOR_EVERYBODY = {**_ASIDE, "Cache-Control": "no-cache"}
_FOR_ONE = {**_ASIDE, **UNCACHED, "X-Robots-Tag": "noindex"}


def add_copies(
    router: APIRouter,
    door: PublicDoor,
    recorder: Recorder,
    answer: Callable[[Request, Awaitable[Response]], Awaitable[Response]],
) -> None:
    """Add the route."""

    @router.api_route("/v/{token}", methods=["GET", "HEAD"])
    async def show(token: str, request: Request) -> Response:
        read = read_token(token, _COPIES, door.keyring)
        if read is None:
            return not_ours()

        async def shown() -> Response:
            visit = visit_of(request)
            await door.work.run(count_visit, door.database, read, visit, door.clock())
            copy = await door.work.run(browser_copy, door.database, read, keyring=door.keyring)
            if copy is None:
                return not_ours()
            if copy.opened is not None:
                recorder.note(Seen(copy.opened, None, visit.method, visit.agent, door.clock()))
            return HTMLResponse(copy.html, headers=_FOR_EVERYBODY if copy.is_public else _FOR_ONE)

        return await answer(request, shown())
