"""What pickers offer, the relays, and how often a person is written to."""

from dataclasses import dataclass

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.organisation import CareSave, RelaySave
from uvarovite.api.schemas.values import Id
from uvarovite.services.organisation import frequency, relays, vocabulary
from uvarovite.services.organisation.frequency import CareView
from uvarovite.services.organisation.relays import RelayChange, RelayView
from uvarovite.services.organisation.vocabulary import Vocabulary

router = APIRouter(prefix="/api", tags=["organisation"])


@router.get("/vocabulary")
def get_vocabulary(user: User, context: Context) -> Vocabulary:
    """Fields, operators, formats, topics, senders and relays."""
    return vocabulary.vocabulary(context.database)


@router.put("/relays/{relay_id}")
def change_relay(relay_id: Id, body: RelaySave, user: User, context: Context) -> RelayView:
    """Save a relay's settings."""
    change = RelayChange(**body.model_dump())
    return relays.change_relay(context.database, relay_id, change, secret=context.secret)


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


@router.get("/care")
def get_care(user: User, context: Context) -> CareView:
    """How often a person may be written to, and which of several records is kept."""
    return frequency.care(context.database)


@router.put("/care", status_code=204)
def change_care(body: CareSave, user: User, context: Context) -> None:
    """Set the caps, and which record is kept."""
    frequency.change_care(context.database, CareView(**body.model_dump()))
