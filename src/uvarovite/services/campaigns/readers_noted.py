"""What is noted of a campaign's readers: what it says itself, else what the organisation says."""

from uvarovite.core.messages import Tracked, Tracking
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Campaign


def tracking_of(tx: Transaction, campaign: Campaign) -> Tracking:
    """As it would be released now."""
    organisation = require_organisation(tx)
    return Tracking(
        opens=Tracked(campaign.track_opens or organisation.track_opens),
        clicks=Tracked(campaign.track_clicks or organisation.track_clicks),
    )
