"""What came back: its groups, replies and what is done about them."""

import asyncio
import json
import secrets
import time
from collections.abc import AsyncIterator
from typing import Any

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse

from uvarovite.api.context import Context, MayAnswer, MayLook, MayWrite
from uvarovite.api.schemas.responses import AnswerBody, AssignBody, DoneBody, LetterWithClicks, NoteBody, PublicCopyBody
from uvarovite.api.schemas.values import Id
from uvarovite.core.responses.groups import ResponseGroup
from uvarovite.services.organisation.single_mails import HandedOver
from uvarovite.services.responses import copies, listing, of_runs, replies
from uvarovite.services.responses.listing import ResponseLine, ResponsesView
from uvarovite.services.responses.of_runs import LatestRun, RunResponses
from uvarovite.services.responses.replies import MailView

router = APIRouter(prefix="/api/responses", tags=["responses"])
_STREAM = {"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
_STREAM_SECONDS, _HEARTBEAT_SECONDS, _BETWEEN_SECONDS = 600.0, 15.0, 1.0


@router.get("")
def responses(actor: MayLook, context: Context) -> ResponsesView:
    """The groups of what came back, with how many stand in each."""
    return listing.responses_view(context.database, actor, context.clock())


@router.get("/groups/{group}")
def response_lines(
    group: ResponseGroup, actor: MayLook, context: Context, before: Id | None = None
) -> list[ResponseLine]:
    """A page of a group, latest first."""
    return listing.response_lines(context.database, actor, group, before=before, now=context.clock())


@router.get("/runs")
def runs_lately(actor: MayLook, context: Context) -> list[LatestRun]:
    """The runs that went out last."""
    return of_runs.runs_lately(context.database, actor)


@router.get("/runs/{run_id}")
def run_responses(run_id: Id, actor: MayLook, context: Context) -> RunResponses:
    """What came back of a run."""
    return of_runs.run_responses(context.database, actor, run_id, keyring=context.keyring)


@router.put("/runs/{run_id}/public-copy", status_code=204)
def allow_public_copy(run_id: Id, body: PublicCopyBody, actor: MayWrite, context: Context) -> None:
    """Let anybody who has the link read a run's message, without anybody's data in it, or nobody any more."""
    copies.allow_public_copy(context.database, actor, run_id, body.allowed)


@router.get("/runs/{run_id}/letter")
def letter_with_clicks(run_id: Id, actor: MayLook, context: Context) -> LetterWithClicks:
    """The message of a run as one of its readers had it, each link with how many followed it."""
    html = of_runs.letter_with_clicks(context.database, actor, run_id, keyring=context.keyring)
    return LetterWithClicks(html=html)


@router.get("/live", response_class=StreamingResponse)
async def live(actor: MayLook, context: Context) -> StreamingResponse:
    """What came back just now, as server-sent events (HTML Living Standard, section 9.2): the numbers of runs, if any."""
    return StreamingResponse(_events(context.live), media_type="text/event-stream", headers=_STREAM)


async def _events(live: Any) -> AsyncIterator[str]:
    # A browser that lost its line comes again by itself; one that is signed out by then is turned away.
    looking, until = live.look(), time.monotonic() + _STREAM_SECONDS
    try:
        yield "retry: 3000\n\n"
        while time.monotonic() < until and not live.closed.is_set():
            runs = await looking.changed(_HEARTBEAT_SECONDS)
            if live.closed.is_set():
                return
            yield ": still here\n\n" if runs is None else f"data: {json.dumps(runs)}\n\n"
            # Whoever looks need not know more than once a second.
            await asyncio.sleep(_BETWEEN_SECONDS)
    finally:
        looking.leave()


@router.get("/mails/{mail_id}")
def mail(mail_id: Id, actor: MayLook, context: Context) -> MailView:
    """A message that came in."""
    return replies.mail_view(context.database, actor, mail_id)


@router.get("/mails/{mail_id}/as-it-came.eml", response_class=Response)
def mail_as_it_came(mail_id: Id, actor: MayAnswer, context: Context) -> Response:
    """A message that came in, byte for byte, for one's own mail program."""
    raw = replies.mail_as_it_came(context.database, actor, mail_id)
    headers = {"Content-Disposition": f'attachment; filename="reply-{mail_id}.eml"', "Cache-Control": "no-store"}
    return Response(raw, media_type="application/octet-stream", headers=headers)


@router.put("/mails/{mail_id}/assigned", status_code=204)
def assign(mail_id: Id, body: AssignBody, actor: MayAnswer, context: Context) -> None:
    """Have somebody look after a reply."""
    replies.assign(context.database, actor, mail_id, body.user_id, now=context.clock())


@router.put("/mails/{mail_id}/done", status_code=204)
def set_done(mail_id: Id, body: DoneBody, actor: MayAnswer, context: Context) -> None:
    """Mark a message as done, or take that back."""
    replies.set_done(context.database, actor, mail_id, body.done, now=context.clock())


@router.post("/mails/{mail_id}/notes", status_code=204)
def add_note(mail_id: Id, body: NoteBody, actor: MayAnswer, context: Context) -> None:
    """Write a note on a message, for colleagues."""
    replies.add_note(context.database, actor, mail_id, body.text, now=context.clock())


@router.post("/mails/{mail_id}/answer")
async def answer(mail_id: Id, body: AnswerBody, actor: MayAnswer, context: Context) -> HandedOver:
    """Send a short answer; what it answers is done then."""
    return await context.send_answer(actor, mail_id, body.words, answer_id=secrets.token_hex(8))
