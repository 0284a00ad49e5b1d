"""Replies that are forwarded: what comes to a sender whose answers are meant for another address goes there as well."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row

from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.responses.groups import ReplyAct
from uvarovite.core.responses.replies import assemble_forwarded, read_reply
from uvarovite.core.values import wire_form
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.store import organisation as organisation_store
from uvarovite.store import replies as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Delivery, InboundMail, Run, Sender

NO_WAY = "There is no relay or no sender to send with yet; see Set-up."
# One that could not be forwarded is tried again so much later, so often.
_AGAIN, MOST_TRIES = timedelta(minutes=10), 5


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedForward:
    """A reply that is ready to be forwarded; `is_last` try, or not."""

    mail_id: int
    mail: PreparedMail
    is_last: bool


def forward_if_wished(tx: Transaction, mail: InboundMail, now: datetime) -> None:
    """A reply that came to a sender whose answers are meant for another address goes there as well."""
    sender = sender_of(tx, mail.recipients, mail.delivery_id)
    if sender is None or not sender.reply_to or sender.reply_to.lower() in (one.lower() for one in mail.recipients):
        return
    mail.forward_to, mail.forward_at = sender.reply_to, now


def next_forward(database: Database, *, forward_id: str, now: datetime) -> PreparedForward | None:
    """The next reply that is to be forwarded, if there is one. One that cannot be sent is asked for again later."""
    with database.transaction() as tx:
        row = store.claim_to_forward(tx, now, _AGAIN)
    if row is None:
        return None
    with database.transaction() as tx:
        relay, sender = relay_for_one(tx, None, now), sender_of(tx, row.recipients, row.delivery_id)
        if relay is None or sender is None or row.raw is None:
            _give_up(tx, row, now)
            return None
        reply = read_reply(row.raw)
        envelope = Envelope(
            message_id=f"forward.{row.id}.{forward_id}@{require_organisation(tx).list_domain}",
            date=now,
            from_name=sender.name,
            from_address=sender.address,
            to_name="",
            to_address=row.forward_to,
            reply_to=reply.answer_to,
            list_id=None,
            unsubscribe_url=None,
        )
    who = reply.from_name or reply.answer_to or "Somebody"
    words = f"{who} wrote this to {sender.address}. What came is attached; an answer to this message goes to them."
    return PreparedForward(
        mail_id=row.id,
        mail=PreparedMail(
            relay=relay,
            from_address=sender.address,
            to_address=wire_form(row.forward_to),
            raw=assemble_forwarded(row.raw, reply, envelope, words),
            failed="The reply was not forwarded.",
        ),
        is_last=row.forward_tries >= MOST_TRIES,
    )


def note_forward(database: Database, forward: PreparedForward, *, accepted: bool, words: str, now: datetime) -> None:
    """Note what became of a reply that was forwarded; the last try that fails is told."""
    if not accepted and not forward.is_last:
        return
    with database.transaction() as tx:
        if store.lock_mail(tx, forward.mail_id) is None:
            return
        act = ReplyAct.FORWARDED if accepted else ReplyAct.NOT_FORWARDED
        text = forward.mail.to_address if accepted else words
        store.was_forwarded(tx, forward.mail_id)
        store.add_entry(tx, forward.mail_id, act, user_id=None, text=text, at=now)


def _give_up(tx: Transaction, row: Row[Any], now: datetime) -> None:
    store.was_forwarded(tx, row.id)
    store.add_entry(tx, row.id, ReplyAct.NOT_FORWARDED, user_id=None, text=NO_WAY, at=now)


def sender_of(tx: Transaction, recipients: Sequence[str], delivery_id: int | None) -> Sender | None:
    """The sender that a message was written to, else the one that it answers, else the first there is."""
    senders = organisation_store.senders(tx)
    written_to = {one.lower() for one in recipients}
    for sender in senders:
        if written_to & {sender.address.lower(), (sender.reply_to or "").lower()}:
            return sender
    delivery = tx.get(Delivery, delivery_id) if delivery_id is not None else None
    run = tx.get(Run, delivery.run_id) if delivery else None
    ours = run.snapshot.letterhead.from_address if run else None
    return next((one for one in senders if one.address == ours), next(iter(senders), None))
