"""The mails to whoever signed up: one asks whether they meant it, one more who has not answered, and one welcomes who has."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.look import Look, theme_of
from uvarovite.core.responses import Keyring, Purpose, Token, sign_token
from uvarovite.core.responses.signing_up import REMIND_AFTER, assemble_sign_up
from uvarovite.core.values import wire_form
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.one_letter import LetterAsk, one_letter
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.services.responses.signing_up import confirm_url, topic_names
from uvarovite.store import signing_up as store
from uvarovite.store.consent.closings import is_closed
from uvarovite.store.consent.ledger import consent_of_contact
from uvarovite.store.consent.suppressions import suppressions_of
from uvarovite.store.database import Database, Transaction
from uvarovite.store.messages import latest_version
from uvarovite.store.tables import Relay, Sender, SignUp, SignUpForm

# One that could not be sent is tried again so much later, so often.
_AGAIN, MOST_TRIES = timedelta(minutes=5), 5


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedAsk:
    """A mail that asks, or that `welcomes`, ready to go."""

    sign_up_id: int
    mail: PreparedMail
    welcomes: bool = False


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
        if sign_up is None or form is None or sign_up.tries > MOST_TRIES or not _is_wanted(tx, sign_up, form):
            if sign_up is not None:
                sign_up.due_at = None
                tx.add(sign_up)
            return None
        if sender is None or relay is None:
            # It waits for one; that is no try.
            sign_up.tries -= 1
            tx.add(sign_up)
            return None
        if sign_up.confirmed_at is not None:
            return _welcome(tx, sign_up, form, sender, relay, public_url=public_url, keyring=keyring, now=now)
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
            language=sign_up.language,
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


def _is_wanted(tx: Transaction, sign_up: SignUp, form: SignUpForm) -> bool:
    """Who has confirmed is welcomed unless they have left again."""
    if sign_up.confirmed_at is None:
        return True
    if sign_up.contact_id is None or form.welcome_message_id is None or sign_up.welcomed_at is not None:
        return False
    listed = suppressions_of(tx, sign_up.address_folded)
    stands = {row.id: row.state for row in consent_of_contact(tx, sign_up.contact_id)}
    gets = [
        topic
        for topic in sign_up.topics
        if stands.get(topic) == "subscribed" and not is_closed(tx, sign_up.address_folded, topic)
    ]
    return bool(gets) and all(entry.topic is not None for entry in listed)


def _welcome(
    tx: Transaction,
    sign_up: SignUp,
    form: SignUpForm,
    sender: Sender,
    relay: Relay,
    *,
    public_url: str,
    keyring: Keyring,
    now: datetime,
) -> PreparedAsk | None:
    """The message that welcomes somebody. While its words have to be mended it waits; that is no try."""
    assert sign_up.id is not None
    assert sign_up.contact_id is not None
    version = latest_version(tx, form.welcome_message_id or 0)
    assert version is not None
    topic = next(iter(sign_up.topics), None)
    ask = LetterAsk(content=version.content, contact_id=sign_up.contact_id, topic_id=topic, sender_id=sender.id)
    try:
        letter = one_letter(tx, ask, keyring=keyring, now=now)
    except BadInput:
        sign_up.tries -= 1
        tx.add(sign_up)
        return None
    token = sign_token(Token(purpose=Purpose.LEAVE_WELCOME, delivery_id=sign_up.id), keyring)
    raw = letter.raw(
        message_id=f"welcome.{sign_up.id}.{int(sign_up.at.timestamp())}",
        to_address=sign_up.address,
        leave_url=f"{public_url}/u/{token}",
    )
    return PreparedAsk(
        sign_up_id=sign_up.id,
        welcomes=True,
        mail=PreparedMail(
            relay=relay,
            from_address=sender.address,
            to_address=wire_form(sign_up.address),
            raw=raw,
            failed="The welcome was not sent.",
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
        if ask.welcomes:
            sign_up.welcomed_at, sign_up.due_at, sign_up.tries = now, None, 0
            tx.add(sign_up)
            return
        sign_up.mails, sign_up.tries = sign_up.mails + 1, 0
        if sign_up.confirmed_at is None:
            sign_up.due_at = now + REMIND_AFTER if sign_up.mails == 1 else None
        tx.add(sign_up)
