"""Messages, the lens and test sends."""

import secrets

from fastapi import APIRouter

from uvarovite.api.context import Context, MayLook, MayWrite
from uvarovite.api.schemas.messages import LensAsk, MessageSave, TestAsk
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.services.messages import messages
from uvarovite.services.messages.messages import LensView, MessageLine, MessageView
from uvarovite.services.organisation.single_mails import HandedOver

router = APIRouter(prefix="/api", tags=["messages"])


@router.get("/messages")
def message_list(actor: MayLook, context: Context) -> list[MessageLine]:
    """All messages by latest change."""
    return messages.message_list(context.database, actor)


@router.get("/messages/{message_id}")
def get_message(message_id: Id, actor: MayLook, context: Context) -> MessageView:
    """One message with its latest words."""
    return messages.get_message(context.database, actor, message_id)


@router.post("/messages")
def make_message(body: MessageSave, actor: MayWrite, context: Context) -> MessageView:
    """Make a message."""
    return _save(None, body, actor, context)


@router.put("/messages/{message_id}")
def change_message(message_id: Id, body: MessageSave, actor: MayWrite, context: Context) -> MessageView:
    """Save a message as a new version."""
    return _save(message_id, body, actor, context)


def _save(message_id: int | None, body: MessageSave, actor: Actor, context: Context) -> MessageView:
    return messages.save_message(
        context.database,
        actor,
        message_id=message_id,
        name=body.name,
        content=body.content,
        revision=body.revision,
        now=context.clock(),
    )


@router.post("/lens")
def lens(body: LensAsk, actor: MayLook, context: Context) -> LensView:
    """A message composed for one cleared person."""
    return messages.look_through_lens(
        context.database,
        actor,
        content=body.content,
        criteria=body.criteria,
        audience_id=body.audience_id,
        campaign_id=body.campaign_id,
        topic_id=body.topic_id,
        sender_id=body.sender_id,
        contact_id=body.contact_id,
        step=body.step,
        keyring=context.keyring,
        now=context.clock(),
    )


@router.post("/test-send")
async def test_send(body: TestAsk, actor: MayWrite, context: Context) -> HandedOver:
    """Send one person's message to somebody else, and say what the relay answered."""
    return await context.send_test(
        actor,
        content=body.content,
        message_id=body.message_id,
        contact_id=body.contact_id,
        to_address=body.to_address or actor.email,
        topic_id=body.topic_id,
        sender_id=body.sender_id,
        relay_id=body.relay_id,
        test_id=secrets.token_hex(8),
    )
