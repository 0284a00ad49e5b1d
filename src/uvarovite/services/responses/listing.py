"""What came back, in groups: how many stand in each, and who."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.core.responses import ResponseDetail, leaving_words
from uvarovite.core.responses.groups import ResponseGroup
from uvarovite.services.accounts.permitted import needs
from uvarovite.store import organisation as organisation_store
from uvarovite.store import replies as store
from uvarovite.store.accounts.users import users
from uvarovite.store.database import Database
from uvarovite.store.mailboxes import mailboxes

SHOWN_SINCE = timedelta(days=30)
PAGE = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class UserName:
    """Somebody who can look after a reply."""

    id: int
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MailboxLine:
    """A mailbox that is read: when it was last looked at to its end, and why it cannot be now."""

    name: str
    looked_at: datetime | None
    trouble: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ResponsesView:
    """How many stand in each group, the addresses that mail is read for, and who can look after replies."""

    counts: dict[ResponseGroup, int]
    addresses: list[str]
    mailboxes: list[MailboxLine]
    users: list[UserName]


@dataclass(frozen=True, slots=True, kw_only=True)
class ResponseLine:
    """One that came back. `mail_id` is None where it came by a link; `name` is None of whoever is no contact."""

    id: int
    mail_id: int | None
    at: datetime
    name: str | None
    address: str | None
    words: str
    campaign: str | None
    delivery_id: int | None
    contact_id: int | None
    assigned_to: str | None
    done: bool


@needs(Permission.LOOK)
def responses_view(database: Database, actor: Actor, now: datetime) -> ResponsesView:
    """The groups, with how many stand in each."""
    with database.transaction() as tx:
        senders = organisation_store.senders(tx)
        addresses = [one.address for one in senders] + [one.reply_to for one in senders if one.reply_to]
        return ResponsesView(
            counts=store.group_counts(tx, now - SHOWN_SINCE),
            addresses=sorted(set(addresses)),
            mailboxes=[MailboxLine(**row._mapping) for row in mailboxes(tx)],
            users=[UserName(id=one.id or 0, name=one.name) for one in users(tx) if one.left_at is None],
        )


@needs(Permission.LOOK)
def response_lines(
    database: Database, actor: Actor, group: ResponseGroup, *, before: int | None, now: datetime
) -> list[ResponseLine]:
    """A page of a group, latest first; `before` is the number of the last one of the page before."""
    since = now - SHOWN_SINCE
    with database.transaction() as tx:
        if group is ResponseGroup.LEFT:
            return [
                ResponseLine(
                    id=row.id,
                    mail_id=row.detail.mail,
                    at=row.at,
                    name=row.name or None,
                    address=row.address,
                    words=f"left {row.topic} {leaving_words(row.detail.channel)}",
                    campaign=row.campaign,
                    delivery_id=row.delivery_id,
                    contact_id=row.contact_id,
                    assigned_to=None,
                    done=False,
                )
                for row in store.left_lines(tx, since, before=before, limit=PAGE)
            ]
        return [
            ResponseLine(
                id=row.id,
                mail_id=row.id,
                at=row.at,
                name=row.name or None,
                address=row.from_address,
                words=_words(row.event, row.own, row.subject),
                campaign=row.campaign,
                delivery_id=row.delivery_id,
                contact_id=row.contact_id,
                assigned_to=row.assigned_to,
                done=row.done_at is not None,
            )
            for row in store.mail_lines(tx, group, since, before=before, limit=PAGE)
        ]


def _words(event: ResponseDetail | None, own: str | None, subject: str | None) -> str:
    if event is not None and event.meaning:
        return f"{meaning_words(event.meaning)}: {event.said}" if event.said else meaning_words(event.meaning)
    return " ".join((own or subject or "").split()) or "no words"
