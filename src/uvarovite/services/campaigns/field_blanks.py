"""How many of those whom a campaign goes to have nothing in a field: for whoever writes to them."""

from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.audiences.audiences import blank_sql, blanks_among_cleared
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.tables import Campaign


@needs(Permission.LOOK)
def blanks_among_readers(database: Database, actor: Actor, campaign_id: int, now: datetime) -> dict[str, int]:
    """For each field, by key: how many of a campaign's cleared people have nothing in it. Raises NotFound.

    Nothing at all while nobody knows whom it goes to: without a topic or an audience, or with one that cannot be read.
    """
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts, keys = load_parts(tx, campaign), load_fields(tx)
        if not parts.criteria or parts.topic is None:
            return {}
        try:
            criteria = audience_sql(tx, parts.criteria, campaign.audience_id, now)
        except BadInput:
            return {}
        # Whoever lacks a required field is held for what this is to tell.
        terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign)
        blanks = [blank_sql(key, standard=field.standard, among=(), others=()) for key, field in keys.items()]
        counted = blanks_among_cleared(tx, criteria, terms, blanks)
        return {key: count for key, (count, _) in zip(keys, counted, strict=True)}
