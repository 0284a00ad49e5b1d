"""What is noted of readers where a campaign says nothing else."""

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import Tracked, Tracking
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Database


@needs(Permission.LOOK)
def tracking(database: Database, actor: Actor) -> Tracking:
    """What is set. Raises ServiceRefusal before the organisation is set up."""
    with database.transaction() as tx:
        found = require_organisation(tx)
        return Tracking(opens=Tracked(found.track_opens), clicks=Tracked(found.track_clicks))


@needs(Permission.SET_UP)
def change_tracking(database: Database, actor: Actor, change: Tracking) -> None:
    """Set it, for messages that are released from now on. Raises ServiceRefusal."""
    with database.transaction() as tx:
        found = require_organisation(tx)
        found.track_opens, found.track_clicks = change.opens, change.clicks
        tx.add(found)
        audit(tx, actor, Action.TRACKING_CHANGED)
