"""What pickers offer, and the relays."""

from dataclasses import dataclass

from fastapi import APIRouter

from uvarovite.api.context import Context, User
from uvarovite.api.schemas.organisation import SenderSave
from uvarovite.api.schemas.values import Id
from uvarovite.services import organisation
from uvarovite.services.organisation import SenderChange, SenderView, Vocabulary

router = APIRouter(prefix="/api", tags=["organisation"])


@router.get("/vocabulary")
def vocabulary(user: User, context: Context) -> Vocabulary:
    """Fields, operators, formats, topics, identities and relays."""
    return organisation.vocabulary(context.database)


@router.put("/senders/{sender_id}")
def change_sender(sender_id: Id, body: SenderSave, user: User, context: Context) -> SenderView:
    """Save a relay's settings."""
    change = SenderChange(**body.model_dump())
    return organisation.change_sender(context.database, sender_id, change, secret=context.secret)


@dataclass(frozen=True, slots=True, kw_only=True)
class TryLine:
    """One step of trying a relay."""

    name: str
    worked: bool
    words: str
    milliseconds: int


@router.post("/senders/{sender_id}/try")
async def try_sender(sender_id: Id, user: User, context: Context) -> list[TryLine]:
    """Connect to a relay step by step; nothing is sent."""
    report = await context.try_relay(sender_id)
    return [
        TryLine(name=step.name, worked=step.worked, words=step.words, milliseconds=step.milliseconds)
        for step in report.steps
    ]
