"""Messages in a browser: one's own behind its token, and one that anybody may read, with nobody's data in it."""

from dataclasses import dataclass

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import Tracked
from uvarovite.core.responses import Keyring, Purpose, Token, sign_token
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Campaign, Contact, Delivery, Run


@dataclass(frozen=True, slots=True, kw_only=True)
class BrowserCopy:
    """A message to be shown. `is_public`: it is the same for everybody; `opened` is the delivery that it counts as opened for."""

    html: str
    is_public: bool
    opened: int | None


def browser_copy(database: Database, token: Token, *, keyring: Keyring) -> BrowserCopy | None:
    """The copy that a token is for; None where there is none, or none any more. Changes nothing."""
    with database.transaction() as tx:
        if token.purpose is Purpose.PUBLIC_COPY:
            run = tx.get(Run, token.delivery_id)
            if run is None or not run.is_public:
                return None
            html = composer_of(tx, run, keyring).for_everybody(run.released_at)
            return BrowserCopy(html=html, is_public=True, opened=None)
        return _own_copy(tx, token.delivery_id, keyring)


def _own_copy(tx: Transaction, delivery_id: int, keyring: Keyring) -> BrowserCopy | None:
    delivery = tx.get(Delivery, delivery_id)
    contact = tx.get(Contact, delivery.contact_id) if delivery else None
    run = tx.get(Run, delivery.run_id) if delivery else None
    if delivery is None or delivery.marked_at is None or run is None or contact is None or contact.erased_at:
        return None
    html = composer_of(tx, run, keyring).in_browser(
        delivery_id=delivery_id,
        record_json=delivery.record,
        consent_since=delivery.consent_since,
        marked_at=delivery.marked_at,
        wish=Tracked(delivery.wish) if delivery.wish else None,
    )
    is_noted = run.snapshot.tracking.opens is Tracked.BY_PERSON
    return BrowserCopy(html=html, is_public=False, opened=delivery_id if is_noted else None)


def public_address(run: Run, *, keyring: Keyring) -> str | None:
    """The link to a run's public copy, to be shared; None where there is none."""
    if not run.is_public:
        return None
    letterhead = run.snapshot.letterhead
    token = Token(purpose=Purpose.PUBLIC_COPY, delivery_id=run.id or 0)
    return f"{letterhead.public_url}/v/{sign_token(token, keyring, letterhead.key_id)}"


@needs(Permission.WRITE)
def allow_public_copy(database: Database, actor: Actor, run_id: int, allowed: bool) -> None:
    """Let anybody read a run's message who has the link, or nobody any more. Raises NotFound."""
    with database.transaction() as tx:
        run = tx.get(Run, run_id, with_for_update=True)
        campaign = tx.get(Campaign, run.campaign_id) if run else None
        if run is None or campaign is None:
            raise NotFound("run")
        if run.is_public == allowed:
            return
        run.is_public = allowed
        tx.add(run)
        action = Action.COPY_MADE_PUBLIC if allowed else Action.COPY_TAKEN_BACK
        audit(tx, actor, action, run_id, name=campaign.name, number=run.number)
