"""The organisation: who it is, who its messages come from, what carries them, and how often a person is written to."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, MayLook, MaySetUp
from uvarovite.api.schemas.organisation import (
    FrequencyLimitsSave,
    LookSave,
    OrganisationSave,
    PoolSave,
    ReadersSave,
    RelaySave,
    SenderSave,
)
from uvarovite.api.schemas.values import Id
from uvarovite.core.messages.look import Look
from uvarovite.services.messages import looks
from uvarovite.services.messages.looks import LookView
from uvarovite.services.organisation import frequency, identity, pools, readers, relays, senders, vocabulary
from uvarovite.services.organisation.frequency import FrequencyLimits
from uvarovite.services.organisation.identity import OrganisationChange, OrganisationView
from uvarovite.services.organisation.readers import ReaderSettings, ReadersView
from uvarovite.services.organisation.relays import RelayChange, RelayView
from uvarovite.services.organisation.senders import SenderChange
from uvarovite.services.organisation.vocabulary import Vocabulary

router = APIRouter(prefix="/api", tags=["organisation"])


@router.get("/vocabulary")
def get_vocabulary(actor: MayLook, context: Context) -> Vocabulary:
    """Fields, operators, formats, topics, senders and relays."""
    return vocabulary.vocabulary(context.database, actor)


@router.get("/organisation")
def get_organisation(actor: MayLook, context: Context) -> OrganisationView:
    """Who the organisation is."""
    return identity.organisation_view(context.database, actor)


@router.put("/organisation")
def change_organisation(body: OrganisationSave, actor: MaySetUp, context: Context) -> OrganisationView:
    """Save who the organisation is."""
    return identity.change_organisation(context.database, actor, OrganisationChange(**body.model_dump()))


@router.get("/look")
def get_look(actor: MayLook, context: Context) -> LookView:
    """How letters look."""
    return looks.look_at(context.database, actor, None, keyring=context.keyring, now=context.clock())


@router.post("/look")
def try_look(body: Look, actor: MayLook, context: Context) -> LookView:
    """How letters would look; nothing is saved."""
    return looks.look_at(context.database, actor, body, keyring=context.keyring, now=context.clock())


@router.put("/look", status_code=204)
def save_look(body: LookSave, actor: MaySetUp, context: Context) -> None:
    """Let letters look so from now on."""
    looks.save_look(context.database, actor, body.look, revision=body.revision)


@router.post("/senders")
def make_sender(body: SenderSave, actor: MaySetUp, context: Context) -> int:
    """Make a sender; its id."""
    return senders.save_sender(context.database, actor, None, SenderChange(**body.model_dump()))


@router.put("/senders/{sender_id}")
def change_sender(sender_id: Id, body: SenderSave, actor: MaySetUp, context: Context) -> int:
    """Change a sender."""
    return senders.save_sender(context.database, actor, sender_id, SenderChange(**body.model_dump()))


@router.delete("/senders/{sender_id}", status_code=204)
def remove_sender(sender_id: Id, actor: MaySetUp, context: Context) -> None:
    """Remove a sender that nothing uses."""
    senders.remove_sender(context.database, actor, sender_id)


@router.post("/pools")
def make_pool(body: PoolSave, actor: MaySetUp, context: Context) -> int:
    """Make a pool of relays; its id."""
    return pools.save_pool(context.database, actor, None, body.name)


@router.put("/pools/{pool_id}")
def change_pool(pool_id: Id, body: PoolSave, actor: MaySetUp, context: Context) -> int:
    """Call a pool otherwise."""
    return pools.save_pool(context.database, actor, pool_id, body.name)


@router.delete("/pools/{pool_id}", status_code=204)
def remove_pool(pool_id: Id, actor: MaySetUp, context: Context) -> None:
    """Remove a pool without relays."""
    pools.remove_pool(context.database, actor, pool_id)


@router.post("/relays")
def make_relay(body: RelaySave, actor: MaySetUp, context: Context) -> RelayView:
    """Make a relay in a pool."""
    return relays.save_relay(context.database, actor, None, RelayChange(**body.model_dump()), secret=context.secret)


@router.put("/relays/{relay_id}")
def change_relay(relay_id: Id, body: RelaySave, actor: MaySetUp, context: Context) -> RelayView:
    """Save a relay's settings."""
    change = RelayChange(**body.model_dump())
    return relays.save_relay(context.database, actor, relay_id, change, secret=context.secret)


@router.delete("/relays/{relay_id}", status_code=204)
def remove_relay(relay_id: Id, actor: MaySetUp, context: Context) -> None:
    """Remove a relay; what it has in hand is finished."""
    relays.remove_relay(context.database, actor, relay_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class WireLine:
    """One line of a conversation with a relay; `ours`: we said it. Secrets are masked."""

    ours: bool
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TryLine:
    """One step of trying a relay, with what was said in it."""

    name: str
    worked: bool
    words: str
    milliseconds: int
    wire: list[WireLine]


@router.post("/relays/{relay_id}/try")
async def try_relay(
    relay_id: Id, actor: MaySetUp, context: Context, with_letter: Annotated[bool, Query()] = True
) -> list[TryLine]:
    """Try a relay step by step, to a message to oneself unless that is not wanted."""
    report = await context.try_relay(actor, relay_id, with_letter=with_letter)
    return [
        TryLine(
            name=step.name,
            worked=step.worked,
            words=step.words,
            milliseconds=step.milliseconds,
            wire=[WireLine(ours=said.ours, words=said.words) for said in step.wire],
        )
        for step in report.steps
    ]


@router.get("/readers")
def get_readers(actor: MayLook, context: Context) -> ReadersView:
    """What is noted of readers where a campaign says nothing else, and what their preference page offers."""
    return readers.readers(context.database, actor)


@router.put("/readers", status_code=204)
def change_readers(body: ReadersSave, actor: MaySetUp, context: Context) -> None:
    """Set what is noted of readers from the next release on, and what their preference page offers at once."""
    readers.change_readers(context.database, actor, ReaderSettings(**body.model_dump()))


@router.get("/limits")
def get_limits(actor: MayLook, context: Context) -> FrequencyLimits:
    """How often a person may be written to, and which of several records is kept."""
    return frequency.frequency_limits(context.database, actor)


@router.put("/limits", status_code=204)
def change_limits(body: FrequencyLimitsSave, actor: MaySetUp, context: Context) -> None:
    """Set the caps, and which record is kept."""
    frequency.change_limits(context.database, actor, FrequencyLimits(**body.model_dump()))
