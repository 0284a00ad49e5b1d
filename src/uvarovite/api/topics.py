"""Topics, as they are set up."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MaySetUp
from uvarovite.api.schemas.topics import (
    TopicOrder,
    TopicSave,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services.consent import topics

router = APIRouter(prefix="/api", tags=["set-up"])


@router.post("/topics")
def make_topic(body: TopicSave, actor: MaySetUp, context: Context) -> int:
    """Make a topic; its id."""
    return topics.save_topic(context.database, actor, topic_id=None, **body.model_dump())


@router.post("/topics-order", status_code=204)
def order_topics(body: TopicOrder, actor: MaySetUp, context: Context) -> None:
    """Put the topics into an order."""
    topics.order_topics(context.database, actor, body.ids)


@router.put("/topics/{topic_id}")
def change_topic(topic_id: Id, body: TopicSave, actor: MaySetUp, context: Context) -> int:
    """Change a topic."""
    return topics.save_topic(context.database, actor, topic_id=topic_id, **body.model_dump())


@router.delete("/topics/{topic_id}", status_code=204)
def remove_topic(topic_id: Id, actor: MaySetUp, context: Context) -> None:
    """Remove a topic that nobody was ever asked about."""
    topics.remove_topic(context.database, actor, topic_id)
