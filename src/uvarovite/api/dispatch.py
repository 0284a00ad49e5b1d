"""Runs on their way: the dispatch, the trace, and the desk."""

from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, Depends, Path, Query
from fastapi.responses import StreamingResponse

from uvarovite.api.context import Context, MayExport, MayLook, MayPause, MayRelease
from uvarovite.api.schemas.campaigns import AgainBody, Released, Those
from uvarovite.api.schemas.values import Id
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.responses import Keyring
from uvarovite.services.campaigns import again
from uvarovite.services.campaigns.again import AgainAsk, AgainView
from uvarovite.services.delivery import dispatch, send_log, traces, watching
from uvarovite.services.delivery.traces import SentMessage, TraceView
from uvarovite.services.delivery.watching import AnswerLine, DeliveryLine, Desk, DispatchView
from uvarovite.services.rehearsals.asking import database_of

router = APIRouter(prefix="/api", tags=["dispatch"])


def seen_database(context: Context, rehearsal: Annotated[Id | None, Query()] = None) -> Any:
    """Where runs and deliveries are looked for: in a rehearsal, if one is asked for."""
    return context.database if rehearsal is None else database_of(context.database, rehearsal)


def seen_keyring(context: Context, rehearsal: Annotated[Id | None, Query()] = None) -> Keyring:
    """What links are signed with there."""
    return context.keyring if rehearsal is None else context.rehearsed_keyring


Seen = Annotated[Any, Depends(seen_database)]


@router.get("/desk")
def desk(actor: MayLook, context: Context) -> Desk:
    """The first screen."""
    return watching.desk(context.database, actor, context.clock())


@router.get("/runs/{run_id}")
def dispatch_view(run_id: Id, actor: MayLook, context: Context) -> DispatchView:
    """The dispatch of a run."""
    return watching.dispatch_view(context.database, actor, run_id, context.clock())


@router.post("/runs/{run_id}/pause", status_code=204)
def pause(run_id: Id, actor: MayPause, context: Context) -> None:
    """Pause a run."""
    dispatch.pause(context.database, actor, run_id, context.clock())


@router.post("/runs/{run_id}/go-on", status_code=204)
def go_on(run_id: Id, actor: MayRelease, context: Context) -> None:
    """Go on with a paused run."""
    dispatch.go_on(context.database, actor, run_id, context.clock())


@router.post("/runs/{run_id}/stop", status_code=204)
def stop(run_id: Id, actor: MayRelease, context: Context) -> None:
    """Stop a run for good."""
    dispatch.stop(context.database, actor, run_id, context.clock())


@router.post("/runs/{run_id}/slower", status_code=204)
def slower(run_id: Id, actor: MayPause, context: Context) -> None:
    """Go on half as fast."""
    dispatch.slow_down(context.database, actor, run_id, context.clock())


@router.post("/runs/{run_id}/faster", status_code=204)
def faster(run_id: Id, actor: MayRelease, context: Context) -> None:
    """Go on twice as fast, as far as the relay allows."""
    dispatch.speed_up(context.database, actor, run_id, context.clock())


@router.get("/runs/{run_id}/again")
def again_view(
    run_id: Id, state: DeliveryState, actor: MayLook, context: Context, delivery: Id | None = None
) -> AgainView:
    """Whom a run over those who did not get it would be for, or over one of them."""
    ask = AgainAsk(run_id=run_id, state=state, delivery_ids=None if delivery is None else (delivery,))
    return again.again_view(context.database, actor, ask, context.clock())


@router.post("/runs/{run_id}/again")
def send_again(run_id: Id, body: AgainBody, actor: MayRelease, context: Context) -> Released:
    """Send the same words to exactly those, as a run of its own."""
    ask = AgainAsk(run_id=run_id, state=body.state, delivery_ids=body.delivery_ids)
    now, seen = context.clock(), body.seen_cleared
    run = again.send_again(context.database, actor, ask, seen_cleared=seen, keyring=context.keyring, now=now)
    return Released(run_id=run)


@router.post("/runs/{run_id}/leave", status_code=204)
def leave(run_id: Id, body: Those, actor: MayRelease, context: Context) -> None:
    """Decide that nothing more is sent to those."""
    ask = AgainAsk(run_id=run_id, state=body.state, delivery_ids=body.delivery_ids)
    again.leave(context.database, actor, ask, context.clock())


@router.get("/runs/{run_id}/log.{form}", response_class=StreamingResponse)
def log(run_id: Id, form: Annotated[str, Path(max_length=10)], actor: MayExport, context: Context) -> StreamingResponse:
    """The send log as CSV or XLSX: who, what, when, through which relay, its answer, and what came back."""
    made = send_log.send_log(context.database, actor, run_id, form=form)
    told = f"attachment; filename*=utf-8''{quote(made.filename, safe='')}"
    headers = {"Content-Disposition": told, "Cache-Control": "no-store"}
    return StreamingResponse(made.pieces, media_type=made.media_type, headers=headers)


@router.get("/runs/{run_id}/answers")
def answers(
    run_id: Id, actor: MayLook, database: Seen, kind: Annotated[str | None, Query(max_length=40)] = None
) -> list[AnswerLine]:
    """The latest answers of relays."""
    return watching.answers(database, actor, run_id, only=kind)


@router.get("/runs/{run_id}/deliveries")
def deliveries(
    run_id: Id,
    actor: MayLook,
    database: Seen,
    search: Annotated[str, Query(max_length=200)] = "",
    state: Annotated[str | None, Query(max_length=40)] = None,
    response: Annotated[str | None, Query(max_length=40)] = None,
) -> list[DeliveryLine]:
    """People of a run."""
    return watching.find_deliveries(database, actor, run_id, search=search, state=state, response=response)


@router.get("/deliveries/{delivery_id}/trace")
def trace(delivery_id: Id, actor: MayLook, database: Seen) -> TraceView:
    """Everything about one person and one run."""
    return traces.trace(database, actor, delivery_id)


@router.get("/deliveries/{delivery_id}/message")
def sent_message(
    delivery_id: Id,
    actor: MayLook,
    context: Context,
    database: Seen,
    keyring: Annotated[Keyring, Depends(seen_keyring)],
) -> SentMessage:
    """The message exactly as it was sent."""
    return traces.sent_message(
        database, actor, delivery_id, keyring=keyring, secret=context.secret, now=context.clock()
    )
