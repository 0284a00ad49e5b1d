"""Mail out of a mailbox: each message taken in once, however often reading it is broken off."""

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


def take_from_mailbox(
    database: Database, name: str, uid_validity: int, uid: int, raw: bytes | None, *, received_at: datetime
) -> bool:
    """Keep a message and how far the mailbox is read, in one transaction; False when somebody else was quicker.

    `raw` is None of one that is gone.
    """
    with database.transaction() as tx:
        last = store.lock_mailbox(tx, name, uid_validity)
        if last is not None and last >= uid:
            return False
        if raw is not None:
            sender, recipients = envelope_of(raw)
            keep_mail(tx, raw=raw, sender=sender, recipients=recipients, now=received_at)
        store.note_read(tx, name, uid)
        return True


def note_look(database: Database, name: str, *, at: datetime | None, trouble: str | None) -> None:
    """A mailbox was looked at to its end; or it could not be, and why."""
    with database.transaction() as tx:
        store.note_look(tx, name, at, trouble and as_kept(trouble))
