"""Whoever has the mailbox that a message of ours went to: by a delivery, or by the welcome to who signed up."""

from dataclasses import dataclass

from uvarovite.core.responses import Purpose, Token
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Contact, Delivery, Run, SignUp, SignUpForm

# What the link to leave carries in a message.
LEAVING = frozenset({Purpose.UNSUBSCRIBE, Purpose.LEAVE_WELCOME})


@dataclass(frozen=True, slots=True, kw_only=True)
class Reader:
    """Somebody and the `mailbox` (a folded address) that a message went to, which was about `topics`.

    `organisation` is what it called itself there; `language` a code, where one is known. `delivery` is None for a welcome.
    """

    contact_id: int
    address: str
    mailbox: str
    topics: tuple[int, ...]
    organisation: str
    language: str | None
    delivery: Delivery | None


def reader_of(tx: Transaction, token: Token | None, *, locked: bool = False) -> Reader | None:
    """Who is known by a token of LEAVING; None for none. With `locked` what is pressed twice is one after the other."""
    if token is None:
        return None
    if token.purpose is Purpose.LEAVE_WELCOME:
        return _welcomed(tx, token.delivery_id, locked=locked)
    delivery = tx.get(Delivery, token.delivery_id, with_for_update=locked)
    return reader_of_delivery(tx, delivery) if delivery else None


def reader_of_delivery(tx: Transaction, delivery: Delivery) -> Reader:
    """Who got a message of a run."""
    run, contact = tx.get(Run, delivery.run_id), tx.get(Contact, delivery.contact_id)
    assert run is not None
    return Reader(
        contact_id=delivery.contact_id,
        address=delivery.address,
        mailbox=delivery.address_folded,
        topics=(run.topic_id,),
        organisation=run.snapshot.letterhead.organisation,
        language=contact.language if contact and not contact.erased_at else delivery.record.get("language"),
        delivery=delivery,
    )


def _welcomed(tx: Transaction, sign_up_id: int, *, locked: bool) -> Reader | None:
    sign_up = tx.get(SignUp, sign_up_id, with_for_update=locked)
    if sign_up is None or sign_up.contact_id is None or sign_up.confirmed_at is None:
        return None
    contact, form = tx.get(Contact, sign_up.contact_id), tx.get(SignUpForm, sign_up.form_id)
    assert form is not None
    return Reader(
        contact_id=sign_up.contact_id,
        address=sign_up.address,
        mailbox=sign_up.address_folded,
        topics=tuple(sign_up.topics),
        organisation=require_organisation(tx).name,
        language=(contact.language if contact else None) or form.language,
        delivery=None,
    )


def owner_of(tx: Transaction, reader: Reader | None) -> Contact | None:
    """Whose record it is by now: whom it was merged into, and nobody once it is deleted."""
    contact = tx.get(Contact, reader.contact_id) if reader else None
    for _ in range(10):
        if contact is None or contact.merged_into is None:
            break
        contact = tx.get(Contact, contact.merged_into)
    return contact if contact is not None and contact.deleted_at is None else None
