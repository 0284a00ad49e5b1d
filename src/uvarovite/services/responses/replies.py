"""Mail that came in, one at a time: what it says, what it was taken for, and what is done about it."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.responses.groups import ReplyAct
from uvarovite.core.responses.inbound import SIGNS
from uvarovite.core.responses.inbound.reading import read_mail
from uvarovite.core.responses.replies import WrittenReply, bare_reply, read_reply
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.responses.inbound import Effect, MatchedBy
from uvarovite.store import replies as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Campaign, Contact, Delivery, InboundMail, Run, User

LONGEST_NOTE = 2_000
_TEXT_SHOWN = 20_000
_MEANINGS = {sign.name: sign.meaning for sign in SIGNS}
_MATCHED_BY = {
    MatchedBy.ENVELOPE: "by the signed address that it came back to",
    MatchedBy.LEAVE_ADDRESS: "by the signed address to which one writes to leave",
    MatchedBy.RETURNED: "by the signed address in the message that it returns",
    MatchedBy.LINK: "by the signed link in the message that it returns",
    MatchedBy.MESSAGE_ID: "by the number of the message that it is about",
    MatchedBy.ADDRESS: "by the address alone, and when we wrote to it",
}
_EFFECTS = {
    Effect.SUPPRESSED: "Their address was put on the suppression list.",
    Effect.NOTED: "It is noted on the contact, and does nothing else.",
    Effect.LEFT: "They have left the topic.",
    Effect.NOTHING: "Nothing was done about it.",
    Effect.NOBODY: "Nothing of ours was found that it is about: it acts on nobody.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class EntryLine:
    """Something that was done about a reply; `by` is None where it happened by itself."""

    at: datetime
    by: str | None
    act: ReplyAct
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MailView:
    """Mail that came in. `told` says by which sign it was taken for what it is, `matched` how its delivery was found, and
    `effect` what was done. `answer_to` is None of what cannot be answered; `mailto` opens an answer in a mail program.
    Once what came is let go of, the words that are kept stay.
    """

    id: int
    at: datetime
    kind: str
    name: str | None
    from_name: str
    from_address: str | None
    subject: str
    words: str
    quoted: str
    attachments: list[str]
    times: int
    told: str
    matched: str | None
    effect: str
    kept_as_it_came: bool
    answer_to: str | None
    mailto: str | None
    delivery_id: int | None
    contact_id: int | None
    run_id: int | None
    campaign_id: int | None
    campaign: str | None
    assigned_to: int | None
    done_at: datetime | None
    forward_to: str | None
    entries: list[EntryLine]


@needs(Permission.LOOK)
def mail_view(database: Database, actor: Actor, mail_id: int) -> MailView:
    """A message that came in. Raises NotFound."""
    with database.transaction() as tx:
        mail = require_mail(tx, mail_id)
        entries = [
            EntryLine(at=row.at, by=row.by, act=ReplyAct(row.act), text=row.text)
            for row in store.entries_of(tx, mail_id)
        ]
        delivery = tx.get(Delivery, mail.delivery_id) if mail.delivery_id else None
        run = tx.get(Run, delivery.run_id) if delivery else None
        campaign = tx.get(Campaign, run.campaign_id) if run else None
        contact = tx.get(Contact, mail.contact_id) if mail.contact_id else None
    reply = reply_of(mail)
    is_person = mail.kind in ("reply", "leave")
    words = mail.own or reply.own if is_person else read_mail(mail.raw).text.strip() if mail.raw is not None else ""
    return MailView(
        id=mail_id,
        at=mail.received_at,
        kind=mail.kind or "",
        name=" ".join(filter(None, [contact.first_name, contact.last_name])) or None if contact else None,
        from_name=reply.from_name,
        from_address=mail.from_address,
        subject=mail.subject or "",
        words=words.replace("\0", "")[:_TEXT_SHOWN],
        quoted=reply.quoted[:_TEXT_SHOWN] if is_person else "",
        attachments=list(reply.attachments),
        times=mail.times,
        told=_MEANINGS.get(mail.sign or "", ""),
        matched=_MATCHED_BY[MatchedBy(mail.matched_by)] if mail.matched_by else None,
        effect=_EFFECTS[Effect(mail.effect or Effect.NOTHING)],
        kept_as_it_came=mail.raw is not None,
        answer_to=reply.answer_to if is_person else None,
        mailto=reply.mailto() if is_person else None,
        delivery_id=mail.delivery_id,
        contact_id=mail.contact_id,
        run_id=run.id if run else None,
        campaign_id=campaign.id if campaign else None,
        campaign=campaign.name if campaign else None,
        assigned_to=mail.assigned_to,
        done_at=mail.done_at,
        forward_to=mail.forward_to,
        entries=entries,
    )


@needs(Permission.ANSWER)
def mail_as_it_came(database: Database, actor: Actor, mail_id: int) -> bytes:
    """The bytes of a message. Raises NotFound, also when they are let go of."""
    with database.transaction() as tx:
        raw = require_mail(tx, mail_id).raw
    if raw is None:
        raise NotFound("message")
    return raw


@needs(Permission.ANSWER)
def assign(database: Database, actor: Actor, mail_id: int, user_id: int | None, *, now: datetime) -> None:
    """Have somebody look after a reply, or nobody. Raises NotFound, BadInput (who has left)."""
    with database.transaction() as tx:
        mail = store.lock_mail(tx, mail_id)
        if mail is None:
            raise NotFound("message")
        user = tx.get(User, user_id) if user_id is not None else None
        if user_id is not None and (user is None or user.left_at is not None):
            raise BadInput("user", "They have no account here any more. Choose somebody else.")
        if mail.assigned_to != user_id:
            store.assign(tx, mail_id, user_id)
            text = user.name if user else ""
            store.add_entry(tx, mail_id, ReplyAct.ASSIGNED, user_id=actor.user_id, text=text, at=now)


@needs(Permission.ANSWER)
def set_done(database: Database, actor: Actor, mail_id: int, done: bool, *, now: datetime) -> None:
    """Mark a message as done, or take that back. Raises NotFound."""
    with database.transaction() as tx:
        mark_done(tx, actor, mail_id, done, now=now)


def mark_done(tx: Transaction, actor: Actor, mail_id: int, done: bool, *, now: datetime) -> None:
    """The same within a transaction; what is so already stays as it is. Raises NotFound."""
    mail = store.lock_mail(tx, mail_id)
    if mail is None:
        raise NotFound("message")
    if (mail.done_at is not None) != done:
        store.set_done(tx, mail_id, now if done else None)
        act = ReplyAct.DONE if done else ReplyAct.REOPENED
        store.add_entry(tx, mail_id, act, user_id=actor.user_id, text="", at=now)


@needs(Permission.ANSWER)
def add_note(database: Database, actor: Actor, mail_id: int, text: str, *, now: datetime) -> None:
    """Write a note on a message, for colleagues. Raises NotFound, BadInput."""
    text = text.strip()
    if not text or len(text) > LONGEST_NOTE:
        raise BadInput("note", f"A note has 1 to {LONGEST_NOTE:,} characters.", field="text")
    with database.transaction() as tx:
        if store.lock_mail(tx, mail_id) is None:
            raise NotFound("message")
        store.add_entry(tx, mail_id, ReplyAct.NOTE, user_id=actor.user_id, text=text, at=now)


def require_mail(tx: Transaction, mail_id: int) -> InboundMail:
    """A message that was acted on. Raises NotFound."""
    mail = tx.get(InboundMail, mail_id)
    if mail is None or mail.acted_at is None:
        raise NotFound("message")
    return mail


def reply_of(mail: InboundMail) -> WrittenReply:
    """What stands in it; of one that is not kept as it came any more, what is known of it."""
    if mail.raw is not None:
        return read_reply(mail.raw)
    return bare_reply(from_address=mail.from_address, subject=mail.subject or "", own=mail.own or "")
