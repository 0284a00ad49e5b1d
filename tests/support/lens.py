"""Looking through the lens as the screen does: first who it is, then their letter."""

from datetime import datetime

from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent
from uvarovite.core.responses import Keyring
from uvarovite.services.messages.lens import LensPerson, LensView, lens_person, look_through_lens
from uvarovite.store.database import Database


def look(
    database: Database,
    content: MessageContent,
    *,
    keyring: Keyring,
    now: datetime,
    criteria: str = "everyone",
    audience_id: int | None = None,
    campaign_id: int | None = None,
    topic_id: int | None = None,
    contact_id: int = 0,
    step: int = 0,
    fallbacks: bool = False,
) -> tuple[LensPerson, LensView]:
    person = lens_person(
        database, SYSTEM, content=content, criteria=criteria, audience_id=audience_id, campaign_id=campaign_id,
        topic_id=topic_id, contact_id=contact_id, step=step, fallbacks=fallbacks, now=now,
    )  # fmt: skip
    letter = look_through_lens(
        database, SYSTEM, content=content, contact_id=person.contact_id or 0, topic_id=topic_id, sender_id=None,
        keyring=keyring, now=now,
    )  # fmt: skip
    assert letter.contact_id == person.contact_id
    return person, letter
