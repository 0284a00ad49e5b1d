"""The mails to whoever signed up: one asks whether they meant it, one more who has not answered, and one welcomes who has."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import partial

from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.look import Look, theme_of
from uvarovite.core.messages.paper import Press
from uvarovite.core.responses import Keyring, Purpose, Token, sign_token
from uvarovite.core.responses.signing_up import REMIND_AFTER, assemble_sign_up
from uvarovite.core.values import wire_form
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.one_letter import LetterAsk, one_letter
from uvarovite.services.messages.pdfs import press_of
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
from uvarovite.store.tables import Sender, SignUp, SignUpForm

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
        welcomes = sign_up.confirmed_at is not None
        make = None
        if sender is not None and relay is not None:
            make = (
                _welcome(tx, sign_up, form, sender, public_url, keyring, press_of(database), now)
                if welcomes
                else _question(tx, sign_up, sender, public_url, keyring, now)
            )
        if sender is None or relay is None or make is None:
            # It waits for one, or for its words to be mended; that is no try.
            sign_up.tries -= 1
            tx.add(sign_up)
            return None
        from_address, to_address = sender.address, wire_form(sign_up.address)
    # A letter that goes along is laid out by another process, which takes its time.
    mail = PreparedMail(
        relay=relay,
        from_address=from_address,
        to_address=to_address,
        raw=make(),
        failed="The welcome was not sent." if welcomes else "The mail to confirm was not sent.",
    )
    return PreparedAsk(sign_up_id=claimed, mail=mail, welcomes=welcomes)


def _question(
    tx: Transaction, sign_up: SignUp, sender: Sender, public_url: str, keyring: Keyring, now: datetime
) -> Callable[[], bytes]:
    """The mail that asks whether they meant it."""
    organisation = require_organisation(tx)
    envelope = Envelope(
        message_id=f"sign-up.{sign_up.id}.{sign_up.mails}.{int(sign_up.at.timestamp())}@{organisation.list_domain}",
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
        topics=topic_names(tx, sign_up.topics),
        url=confirm_url(public_url, sign_up.id or 0, keyring),
        language=sign_up.language,
        theme=theme_of(organisation.look or Look()),
        reminds=sign_up.mails > 0,
    )
    return lambda: raw


def _welcome(
    tx: Transaction,
    sign_up: SignUp,
    form: SignUpForm,
    sender: Sender,
    public_url: str,
    keyring: Keyring,
    press: Press,
    now: datetime,
) -> Callable[[], bytes] | None:
    """The message that welcomes them; None while its words have to be mended."""
    version = latest_version(tx, form.welcome_message_id or 0)
    assert version is not None
    ask = LetterAsk(
        content=version.content,
        contact_id=sign_up.contact_id or 0,
        topic_id=next(iter(sign_up.topics), None),
        sender_id=sender.id,
    )
    try:
        letter = one_letter(tx, ask, keyring=keyring, now=now, press=press)
    except BadInput:
        return None
    token = Token(purpose=Purpose.LEAVE_WELCOME, delivery_id=sign_up.id or 0)
    return partial(
        letter.raw,
        message_id=f"welcome.{sign_up.id}.{int(sign_up.at.timestamp())}",
        to_address=sign_up.address,
        leave_url=f"{public_url}/u/{sign_token(token, keyring)}",
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
