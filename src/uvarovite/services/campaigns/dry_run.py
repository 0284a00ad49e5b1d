"""A dry run: what would go out now, byte for byte but for its links, which lead to nobody. No relay hears of it."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.delivery.dkim import signed
from uvarovite.core.messages.mbox import mbox_entry
from uvarovite.core.responses import Keyring
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.new_runs import snapshot_now
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.composing import composer_for
from uvarovite.services.messages.messages import problem_views
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.signing import open_keys, signing_keys_for
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.delivery.planning import cleared_records
from uvarovite.store.tables import Campaign

# No delivery has such a number: a link of a dry run leads to nobody, and leaving by one leaves nothing.
_NOBODY = 2**62


@dataclass(frozen=True, slots=True, kw_only=True)
class DryMessage:
    """What one person would get."""

    address: str
    sender: str
    raw: bytes

    def in_mbox(self, at: datetime) -> bytes:
        """It as an entry of an mbox file (RFC 4155)."""
        return mbox_entry(self.raw, self.sender, at)


@needs(Permission.EXPORT)
def dry_run(
    database: Database,
    actor: Actor,
    campaign_id: int,
    *,
    most: int | None = None,
    public_url: str,
    keyring: Keyring,
    secret: bytes,
    now: datetime,
) -> Iterator[DryMessage]:
    """Everybody's message, or those of the first so many, made while they are asked for.

    Raises NotFound, BadInput at once: for what is not chosen yet, or for words that cannot be made.
    """
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts = load_parts(tx, campaign)
        for part, words in (
            (parts.criteria, "an audience"), (parts.topic, "a topic"), (parts.version, "a message"), (parts.sender, "a sender"),
        ):  # fmt: skip
            if part is None:
                raise BadInput("missing", f"Choose {words} first.")
        assert parts.version is not None
        problems = problem_views(parts.version.content, load_fields(tx))
        if problems:
            raise BadInput("words", f"The words cannot be made: {problems[0].problem.message}")
        audit(tx, actor, Action.DRY_RUN, campaign_id, name=campaign.name)
    return _messages(database, campaign_id, most=most, public_url=public_url, keyring=keyring, secret=secret, now=now)


def _messages(
    database: Database,
    campaign_id: int,
    *,
    most: int | None,
    public_url: str,
    keyring: Keyring,
    secret: bytes,
    now: datetime,
) -> Iterator[DryMessage]:
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        assert campaign is not None
        parts = load_parts(tx, campaign)
        assert parts.criteria is not None
        assert parts.version is not None
        assert parts.topic is not None
        content = parts.version.content
        snapshot = snapshot_now(tx, parts, public_url=public_url, keyring=keyring)
        composer = composer_for(tx, snapshot, parts.version.id or 0, keyring, press=press_of(database))
        from_address = composer.letterhead.from_address
        keys = open_keys(tx, signing_keys_for(tx, from_address), secret)
        terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=content)
        audience_store.judge_for_release(tx, audience_sql(tx, parts.criteria, campaign.audience_id, now), terms)
        for row in cleared_records(tx, parts.topic.id or 0, most):
            composed = composer.compose(
                delivery_id=_NOBODY + row.id,
                address=row.address,
                record_json=row.record,
                consent_since=row.consent_since,
                marked_at=now,
            )
            raw = signed(composed.raw, keys, now)
            yield DryMessage(address=composed.to_address, sender=wire_form(from_address), raw=raw)
