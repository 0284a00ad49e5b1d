"""Short answers to replies, from the sender that was written to."""

from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.responses.groups import ReplyAct
from uvarovite.core.responses.replies import assemble_answer
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, ServiceRefusal
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.senders import may_send_as
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.services.responses.forwarding import NO_WAY, sender_of
from uvarovite.services.responses.replies import mark_done, reply_of, require_mail
from uvarovite.store import replies as store
from uvarovite.store.database import Database

LONGEST_ANSWER = 5_000


@needs(Permission.ANSWER)
def prepare_answer(
    database: Database, actor: Actor, mail_id: int, words: str, *, answer_id: str, now: datetime
) -> PreparedMail:
    """An answer from the sender that was written to. Raises NotFound, BadInput, ServiceRefusal (no relay, not their sender)."""
    if not words.strip() or len(words) > LONGEST_ANSWER:
        raise BadInput("words", f"An answer has 1 to {LONGEST_ANSWER:,} characters.", field="words")
    with database.transaction() as tx:
        mail = require_mail(tx, mail_id)
        reply = reply_of(mail)
        if mail.kind not in ("reply", "leave") or reply.answer_to is None:
            raise BadInput("no_answer", "This names no address that an answer could go to.")
        relay, sender = relay_for_one(tx, None, now), sender_of(tx, mail.recipients, mail.delivery_id)
        if relay is None or sender is None:
            raise ServiceRefusal("no_relay", NO_WAY)
        if not may_send_as(sender, actor.user_id):
            raise ServiceRefusal(
                "sender", f"What comes from {sender.name} is others’ to send. Answer from your own mail program."
            )
        envelope = Envelope(
            message_id=f"answer.{answer_id}@{require_organisation(tx).list_domain}",
            date=now,
            from_name=sender.name,
            from_address=sender.address,
            to_name=reply.from_name,
            to_address=reply.answer_to,
            reply_to=sender.reply_to,
            list_id=None,
            unsubscribe_url=None,
        )
    return PreparedMail(
        relay=relay,
        from_address=sender.address,
        to_address=wire_form(reply.answer_to),
        raw=assemble_answer(words, reply, envelope),
        failed="The answer was not sent.",
    )


@needs(Permission.ANSWER)
def note_answer(database: Database, actor: Actor, mail_id: int, words: str, to: str, *, now: datetime) -> None:
    """Note that an answer was sent; what it answers is done. Where the person was erased meanwhile nothing is left to note."""
    with database.transaction() as tx:
        if store.lock_mail(tx, mail_id) is None:
            return
        store.add_entry(tx, mail_id, ReplyAct.ANSWERED, user_id=actor.user_id, text=words.strip(), at=now)
        mark_done(tx, actor, mail_id, True, now=now)
        audit(tx, actor, Action.REPLY_ANSWERED, mail_id, to=to)
