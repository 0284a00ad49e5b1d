"""What pickers offer, and the relays."""

from dataclasses import dataclass

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.organisation import RelaySave
from uvarovite.api.schemas.values import Id
from uvarovite.services import organisation
from uvarovite.services.organisation import RelayChange, RelayView, Vocabulary

router = APIRouter(prefix="/api", tags=["organisation"])


@router.get("/vocabulary")
def vocabulary(user: User, context: Context) -> Vocabulary:
    """Fields, operators, formats, topics, senders and relays."""
    return organisation.vocabulary(context.database)


@router.put("/relays/{relay_id}")
def change_relay(relay_id: Id, body: RelaySave, user: User, context: Context) -> RelayView:
    """Save a relay's settings."""
    change = RelayChange(**body.model_dump())
    return organisation.change_relay(context.database, relay_id, change, secret=context.secret)


@dataclass(frozen=True, slots=True, kw_only=True)
class TryLine:
    """One step of trying a relay."""

    name: str
    worked: bool
    words: str
    milliseconds: int


@router.post("/relays/{relay_id}/try")
async def try_relay(relay_id: Id, user: User, context: Context) -> list[TryLine]:
    """Connect to a relay step by step; nothing is sent."""
    report = await context.try_relay(relay_id)
    return [
        TryLine(name=step.name, worked=step.worked, words=step.words, milliseconds=step.milliseconds)
        for step in report.steps
    ]
