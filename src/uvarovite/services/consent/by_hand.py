"""Entries into the ledger and the suppression list by hand."""

from datetime import datetime

from sqlmodel import col, select

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.consent import ConsentEventKind, ConsentEvidence, SuppressionReason
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import NotFound
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Contact


def _by_number(tx: Transaction, contact_no: str) -> Contact | None:
    """Whoever has a contact number; deleted ones have none that counts, nor does its index know them."""
    query = select(Contact).where(col(Contact.contact_no) == contact_no, col(Contact.deleted_at).is_(None))
    return tx.exec(query).first()


@needs(Permission.CONTACTS)
def record_by_hand(
    database: Database,
    actor: Actor,
    *,
    contact_no: str,
    topic: str,
    kind: ConsentEventKind,
    at: datetime,
    wording: str,
) -> None:
    """Enter what a person said, on paper or by telephone, into the ledger. Raises NotFound."""
    with database.transaction() as tx:
        contact = _by_number(tx, contact_no)
        found = consent_store.topic_by_key(tx, topic)
        if contact is None or contact.id is None or found is None or found.id is None:
            raise NotFound("contact or topic")
        consent_store.append_for_contact(
            tx,
            contact.id,
            topic_id=found.id,
            kind=kind,
            at=at,
            channel="by_hand",
            evidence=ConsentEvidence(wording=wording),
        )


@needs(Permission.CONTACTS)
def suppress_by_hand(database: Database, actor: Actor, *, contact_no: str, reason: str, at: datetime) -> None:
    """Put a person's address on the suppression list. Raises NotFound."""
    with database.transaction() as tx:
        contact = _by_number(tx, contact_no)
        if contact is None or contact.address_folded is None:
            raise NotFound("contact")
        suppress(
            tx,
            reason=SuppressionReason.BY_HAND,
            evidence=ConsentEvidence(why=reason),
            at=at,
            address_folded=contact.address_folded,
        )
