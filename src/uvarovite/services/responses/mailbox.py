"""Mail out of a mailbox: each message taken in once, however often reading it is broken off."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.delivery.answers import as_kept
from uvarovite.core.responses.inbound.envelope import envelope_of
from uvarovite.services.responses.inbound import keep_mail
from uvarovite.store import mailboxes as store
from uvarovite.store.database import Database

# At a first look older mail is left alone: it was seen to without us.
FIRST_LOOK = timedelta(days=30)


def read_up_to(database: Database, name: str, uid_validity: int) -> int | None:
    """The last message that was taken in of a mailbox; None where nothing was, or where its numbers are others by now."""
    with database.transaction() as tx:
        return store.lock_mailbox(tx, name, uid_validity)


@dataclass(frozen=True, slots=True, kw_only=True)
class LyingMail:
    """A message as it lies in a mailbox; `raw` is None of one that is gone."""

    uid: int
    raw: bytes | None
    received_at: datetime


def take_from_mailbox(database: Database, name: str, uid_validity: int, mails: Sequence[LyingMail]) -> int:
    """Keep messages, in the order of their UIDs, and how far the mailbox is read, in one transaction; how many.

    What somebody else was quicker with is passed over.
    """
    taken = 0
    with database.transaction() as tx:
        last = store.lock_mailbox(tx, name, uid_validity)
        for mail in mails:
            if last is not None and last >= mail.uid:
                continue
            if mail.raw is not None:
                sender, recipients = envelope_of(mail.raw)
                keep_mail(tx, raw=mail.raw, sender=sender, recipients=recipients, now=mail.received_at)
            last = mail.uid
            taken += 1
        if taken and last is not None:
            store.note_read(tx, name, last)
    return taken


def note_look(database: Database, name: str, *, at: datetime | None, trouble: str | None) -> None:
    """A mailbox was looked at to its end; or it could not be, and why."""
    with database.transaction() as tx:
        store.note_look(tx, name, at, trouble and as_kept(trouble))
