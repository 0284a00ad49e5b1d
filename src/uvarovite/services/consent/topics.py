"""Topics: what people subscribe to."""

from collections.abc import Sequence

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import field_key_problem
from uvarovite.core.expressions import NameKind
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.frequency import require_caps
from uvarovite.services.saving.renaming import rename_in_criteria
from uvarovite.store.consent import ledger as store
from uvarovite.store.database import Database
from uvarovite.store.tables import Sender, Topic


@needs(Permission.SET_UP)
def save_topic(
    database: Database,
    actor: Actor,
    *,
    topic_id: int | None,
    key: str,
    name: str,
    description: str,
    sender_id: int | None,
    revision: int | None,
    double_opt_in: bool = False,
    week_cap: int | None = None,
    month_cap: int | None = None,
) -> int:
    """Make or change a topic; its id. The key stays as it was made. Raises BadInput, NotFound, Conflict."""
    require_caps(week_cap, month_cap)
    name = " ".join(name.split())
    if not name or len(name) > 80:
        raise BadInput("name", "Give the topic a name of at most 80 characters; recipients read it.")
    with database.transaction() as tx:
        everything = store.topics(tx)
        if any(one.name.casefold() == name.casefold() and one.id != topic_id for one in everything):
            raise BadInput("taken", f"There is a topic “{name}” already.")
        if sender_id is not None and tx.get(Sender, sender_id) is None:
            raise NotFound("sender")
        if topic_id is None:
            if fault := field_key_problem(key):
                raise BadInput("key", fault.replace("A field's", "A topic's"))
            if any(one.key == key for one in everything):
                raise BadInput("taken", f"The key “{key}” is taken.")
            topic = Topic(key=key, name=name, position=len(everything))
        else:
            found = tx.get(Topic, topic_id, with_for_update=True)
            if found is None:
                raise NotFound("topic")
            if found.revision != revision:
                raise Conflict("changed", "Somebody else changed this topic meanwhile; look at it again.")
            topic = found
            topic.revision += 1
            rename_in_criteria(tx, NameKind.TOPIC, topic.name, name)
        topic.name, topic.description, topic.sender_id = name, description.strip(), sender_id
        topic.double_opt_in, topic.week_cap, topic.month_cap = double_opt_in, week_cap, month_cap
        tx.add(topic)
        tx.flush()
        assert topic.id is not None
        audit(tx, actor, Action.TOPIC_SAVED, topic.id, name=name)
        return topic.id


@needs(Permission.SET_UP)
def order_topics(database: Database, actor: Actor, ids: Sequence[int]) -> None:
    """Put the topics into an order. Raises BadInput unless every topic is named once."""
    with database.transaction() as tx:
        topics = {topic.id: topic for topic in store.topics(tx)}
        if sorted(ids) != sorted(one for one in topics if one is not None):
            raise BadInput("topics", "The topics changed meanwhile; look at them again.")
        for position, topic_id in enumerate(ids):
            topics[topic_id].position = position
            tx.add(topics[topic_id])


@needs(Permission.SET_UP)
def remove_topic(database: Database, actor: Actor, topic_id: int) -> None:
    """Remove a topic that nobody was ever asked about and no campaign uses. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        topic = tx.get(Topic, topic_id, with_for_update=True)
        if topic is None:
            raise NotFound("topic")
        if store.topic_is_used(tx, topic_id):
            raise Conflict("used", "People were asked about this topic, or a campaign is about it: it has to stay.")
        audit(tx, actor, Action.TOPIC_REMOVED, topic_id, name=topic.name)
        tx.delete(topic)
