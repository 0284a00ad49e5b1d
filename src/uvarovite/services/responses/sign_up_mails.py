"""The mails that ask whoever signed up whether they meant it: one at once, and one more for who has not answered."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.look import Look, theme_of
from uvarovite.core.responses import Keyring
from uvarovite.core.responses.signing_up import REMIND_AFTER, assemble_sign_up
from uvarovite.core.values import wire_form
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.services.responses.signing_up import confirm_url, topic_names
from uvarovite.store import signing_up as store
from uvarovite.store.database import Database
from uvarovite.store.tables import Sender, SignUp, SignUpForm

# One that could not be sent is tried again so much later, so often.
_AGAIN, MOST_TRIES = timedelta(minutes=5), 5


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedAsk:
    """A mail that asks, ready to go."""

    sign_up_id: int
    mail: PreparedMail


def next_ask(database: Database, *, public_url: str, keyring: Keyring, now: datetime) -> PreparedAsk | None:
    """The next mail that is due, if there is one. One that cannot be sent is asked for again later."""
    with database.transaction() as tx:
        claimed = store.claim_due(tx, now, _AGAIN)
    if claimed is None:
        return None
    with database.transaction() as tx:
        sign_up = tx.get(SignUp, claimed, with_for_update=True)
        form = tx.get(SignUpForm, sign_up.form_id) if sign_up else None
        sender = tx.get(Sender, form.sender_id) if form else None
        relay = relay_for_one(tx, None, now)
        if sign_up is None or form is None or sign_up.confirmed_at is not None or sign_up.tries > MOST_TRIES:
            if sign_up is not None:
                sign_up.due_at = None
                tx.add(sign_up)
            return None
        if sender is None or relay is None:
            # It waits for one; that is no try.
            sign_up.tries -= 1
            tx.add(sign_up)
            return None
        organisation, topics = require_organisation(tx), topic_names(tx, sign_up.topics)
        envelope = Envelope(
            message_id=f"sign-up.{claimed}.{sign_up.mails}.{int(sign_up.at.timestamp())}@{organisation.list_domain}",
            date=now,
            from_name=sender.name,
            from_address=sender.address,
            to_name="",
            to_address=sign_up.address,
            reply_to=None,
            list_id=None,
            unsubscribe_url=None,
        )
        raw = assemble_sign_up(
            envelope,
            organisation=organisation.name,
            topics=topics,
            url=confirm_url(public_url, claimed, keyring),
            language=form.language,
            theme=theme_of(organisation.look or Look()),
            reminds=sign_up.mails > 0,
        )
        return PreparedAsk(
            sign_up_id=claimed,
            mail=PreparedMail(
                relay=relay,
                from_address=sender.address,
                to_address=wire_form(sign_up.address),
                raw=raw,
                failed="The mail to confirm was not sent.",
            ),
        )


def note_ask(database: Database, ask: PreparedAsk, *, accepted: bool, now: datetime) -> None:
    """Note what became of it: who was asked once is reminded once; what was refused comes again in a while."""
    if not accepted:
        return
    with database.transaction() as tx:
        sign_up = tx.get(SignUp, ask.sign_up_id, with_for_update=True)
        if sign_up is None:
            return
        sign_up.mails, sign_up.tries = sign_up.mails + 1, 0
        is_open = sign_up.mails == 1 and sign_up.confirmed_at is None
        sign_up.due_at = now + REMIND_AFTER if is_open else None
        tx.add(sign_up)
