"""What people say about letters on paper: that they want none, or that they want them after all."""

from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.services.saving.reasons import require_reason
from uvarovite.store.consent import post as store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.database import Database


@needs(Permission.CONTACTS)
def refuse_post(database: Database, actor: Actor, contact_id: int, *, wording: str, now: datetime) -> None:
    """Record that somebody wants no post, in what words. Raises NotFound, BadInput."""
    wording = require_reason(wording, "wording", "Say in what words, or how, they said so.")
    with database.transaction() as tx:
        if contact_store.get_contact(tx, contact_id) is None:
            raise NotFound("contact")
        if store.refuse_post(tx, contact_id, wording=wording, recorded_by=actor.user_id, at=now):
            audit(tx, actor, Action.POST_REFUSED, contact_id, contact=contact_id)


@needs(Permission.CONTACTS)
def allow_post(database: Database, actor: Actor, contact_id: int, *, wording: str) -> None:
    """Record that somebody wants post after all, in what words. Raises NotFound, BadInput."""
    reason = require_reason(wording, "wording", "Say in what words, or how, they said so.")
    with database.transaction() as tx:
        if contact_store.get_contact(tx, contact_id) is None:
            raise NotFound("contact")
        if store.allow_post(tx, contact_id):
            audit(tx, actor, Action.POST_ALLOWED, contact_id, contact=contact_id, reason=reason)
