"""Runs on their way: the dispatch, the trace, and the desk."""

from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, MayLook, MayPause, MayRelease
from uvarovite.api.schemas.values import Id
from uvarovite.services.delivery import dispatch, traces, watching
from uvarovite.services.delivery.traces import SentMessage, TraceView
from uvarovite.services.delivery.watching import AnswerLine, DeliveryLine, Desk, DispatchView

router = APIRouter(prefix="/api", tags=["dispatch"])


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


@router.get("/runs/{run_id}/answers")
def answers(
    run_id: Id, actor: MayLook, context: Context, kind: Annotated[str | None, Query(max_length=40)] = None
) -> list[AnswerLine]:
    """The latest answers of relays."""
    return watching.answers(context.database, actor, run_id, only=kind)


@router.get("/runs/{run_id}/deliveries")
def deliveries(
    run_id: Id,
    actor: MayLook,
    context: Context,
    search: Annotated[str, Query(max_length=200)] = "",
    state: Annotated[str | None, Query(max_length=40)] = None,
    response: Annotated[str | None, Query(max_length=40)] = None,
) -> list[DeliveryLine]:
    """People of a run."""
    return watching.find_deliveries(context.database, actor, run_id, search=search, state=state, response=response)


@router.get("/deliveries/{delivery_id}/trace")
def trace(delivery_id: Id, actor: MayLook, context: Context) -> TraceView:
    """Everything about one person and one run."""
    return traces.trace(context.database, actor, delivery_id)


@router.get("/deliveries/{delivery_id}/message")
def sent_message(delivery_id: Id, actor: MayLook, context: Context) -> SentMessage:
    """The message exactly as it was sent."""
    return traces.sent_message(context.database, actor, delivery_id, keyring=context.keyring, now=context.clock())
