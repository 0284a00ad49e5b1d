"""Signing up: what a form sends in is nobody's contact before whoever has the mailbox has confirmed it.

The answer is the same whether an address is known or not. Whoever left or complained comes back by this alone.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.consent import LIFTED_BY_PERSON_ALONE, ConsentEventKind, ConsentEvidence, SuppressionReason
from uvarovite.core.contacts import ReadFault, folded_value, read_value, value_to_json
from uvarovite.core.contacts.acts import Act
from uvarovite.core.messages.look import Look
from uvarovite.core.responses import Keyring, Purpose, Token, read_token, sign_token
from uvarovite.core.responses.form_fields import FormField, form_field
from uvarovite.core.responses.languages import preferred
from uvarovite.core.responses.signing_up import FASTEST, LASTS, FilledForm, FormWords, read_form
from uvarovite.core.values import Address, read_address
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.organisation.facts import require_organisation, typed_reading
from uvarovite.services.responses.visits import TooManyVisits, Visit
from uvarovite.store import signing_up as store
from uvarovite.store import tallies
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.suppressions import lift, lift_erased, suppressions_of
from uvarovite.store.contacts import people as people_store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.changes import add_change, new_change_set, note_contacts
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction, instant
from uvarovite.store.tables import Contact, SignUp, SignUpForm

CHANNEL = "sign_up"
# Within a day an address is asked so often; one that is suppressed once within a month. An origin sends in so much an hour.
_MAILS_A_DAY, _DAY, _MONTH = 3, timedelta(days=1), timedelta(days=30)
_SENT_IN_AN_HOUR, _HOUR = 30, timedelta(hours=1)
# Who signed up and never confirmed is forgotten.
FORGOTTEN_AFTER = timedelta(days=30)


@dataclass(frozen=True, slots=True, kw_only=True)
class FormPage:
    """What a form's page shows. `shown` is the token that says when; `fault` what was wrong with what was sent in."""

    organisation: str
    look: Look
    language: str
    title: str
    intro: str
    wording: str
    topics: tuple[tuple[int, str, str], ...]
    asks: tuple[FormField, ...]
    shown: str
    sent: bool = False
    fault: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ConfirmPage:
    """What the page behind a mail shows: what is to be confirmed, or that it is; `late`: the link works no more."""

    organisation: str
    look: Look
    language: str
    topics: tuple[str, ...]
    confirmed: bool
    late: bool


def form_page(
    database: Database, key: str, *, language: str | None, accept: str | None, keyring: Keyring, now: datetime
) -> FormPage | None:
    """A form's page in the language that is asked for, else the one that the browser likes best; None for one that is not there
    or is closed.
    """
    with database.transaction() as tx:
        form = store.form_by_key(tx, key)
        if form is None or form.closed_at is not None:
            return None
        store.count_seen(tx, form.id or 0)
        return _page(tx, form, _words(form, language, accept), keyring, now)


def send_in(
    database: Database,
    key: str,
    visit: Visit,
    body: bytes,
    *,
    page: str,
    accept: str | None,
    keyring: Keyring,
    now: datetime,
) -> FormPage | None:
    """What somebody filled in; None for no form of ours. Raises TooManyVisits.

    What a machine filled in, and what comes too often for an address, is answered as if it had been taken.
    """
    with database.transaction() as tx:
        form = store.form_by_key(tx, key)
        filled = read_form(body, form.asks) if form else None
        if form is None or form.closed_at is not None or filled is None:
            return None
        words = _words(form, filled.language, accept)
        sent = _page(tx, form, words, keyring, now, sent=True)
        if filled.trapped or _is_too_fast(filled, keyring, now):
            return sent
        address = read_address(filled.address)
        topics = sorted(filled.topics & set(form.topics)) or (form.topics if len(form.topics) == 1 else [])
        if not isinstance(address, Address) or not topics:
            return _page(tx, form, words, keyring, now, fault="topic" if isinstance(address, Address) else "address")
    if _comes_too_often(database, f"sign-up from {visit.origin}", _SENT_IN_AN_HOUR, _HOUR, now):
        raise TooManyVisits
    with database.transaction() as tx:
        may = _may_be_asked(tx, address)
    if may is None or _comes_too_often(database, f"sign-up of {address.folded}", *may, now):
        return sent
    with database.transaction() as tx:
        _keep(tx, form, words, filled, address, topics, visit, page, now)
    return sent


def confirm_page(database: Database, token: str, *, keyring: Keyring, now: datetime) -> ConfirmPage | None:
    """What a link to confirm is about; None for one that is none of ours. Changes nothing."""
    read = read_token(token, Purpose.SIGN_UP, keyring)
    with database.transaction() as tx:
        sign_up = tx.get(SignUp, read.delivery_id) if read else None
        return _confirm_page(tx, sign_up, now) if sign_up else None


def confirm(
    database: Database, token: str, visit: Visit, *, keyring: Keyring, hasher: Hash, now: datetime, at: datetime | None
) -> ConfirmPage | None:
    """Confirm: somebody is a contact now, subscribed by their own word. Works any number of times; None as above.

    It is recorded at the database's own instant, where `at` tells no other.
    """
    read = read_token(token, Purpose.SIGN_UP, keyring)
    with database.transaction() as tx:
        sign_up = tx.get(SignUp, read.delivery_id, with_for_update=True) if read else None
        if sign_up is None:
            return None
        page = _confirm_page(tx, sign_up, now)
        if page.confirmed or page.late:
            return page
        _take_in(tx, sign_up, visit, hasher, instant(tx, at))
        return _confirm_page(tx, sign_up, now)


def let_go_of_sign_ups(database: Database, now: datetime) -> int:
    """Forget who signed up long ago and never confirmed; how many."""
    with database.transaction() as tx:
        return store.let_go(tx, now - FORGOTTEN_AFTER)


def confirm_url(public_url: str, sign_up_id: int, keyring: Keyring) -> str:
    """Where somebody confirms."""
    return f"{public_url}/c/{sign_token(Token(purpose=Purpose.SIGN_UP, delivery_id=sign_up_id), keyring)}"


def topic_names(tx: Transaction, topics: list[int]) -> tuple[str, ...]:
    """The names of topics that there still are, in their order."""
    return tuple(one.name for one in consent_store.topics(tx) if one.id in topics)


def _words(form: SignUpForm, language: str | None, accept: str | None) -> FormWords:
    """What the form says in a language that it has, else in the one that a browser likes best, else in its own."""
    own = FormWords(language=form.language, title=form.title, intro=form.intro, wording=form.wording)
    known = {one.language: one for one in (own, *form.others)}
    return known.get(language or "") or known.get(preferred(accept, known) or "", own)


def _page(
    tx: Transaction,
    form: SignUpForm,
    words: FormWords,
    keyring: Keyring,
    now: datetime,
    *,
    sent: bool = False,
    fault: str = "",
) -> FormPage:
    organisation, fields = require_organisation(tx), load_fields(tx)
    shown = Token(purpose=Purpose.SHOWN, delivery_id=int(now.timestamp()))
    return FormPage(
        organisation=organisation.name,
        look=organisation.look or Look(),
        language=words.language,
        title=words.title,
        intro=words.intro,
        wording=words.wording,
        topics=tuple(
            (one.id or 0, one.name, one.description) for one in consent_store.topics(tx) if one.id in form.topics
        ),
        asks=tuple(form_field(fields[key]) for key in form.asks if key in fields),
        shown=sign_token(shown, keyring),
        sent=sent,
        fault=fault,
    )


def _confirm_page(tx: Transaction, sign_up: SignUp, now: datetime) -> ConfirmPage:
    form, organisation = tx.get(SignUpForm, sign_up.form_id), require_organisation(tx)
    assert form is not None
    return ConfirmPage(
        organisation=organisation.name,
        look=organisation.look or Look(),
        language=sign_up.language,
        topics=topic_names(tx, sign_up.topics),
        confirmed=sign_up.confirmed_at is not None,
        late=sign_up.confirmed_at is None and sign_up.at < now - LASTS,
    )


def _is_too_fast(filled: FilledForm, keyring: Keyring, now: datetime) -> bool:
    """Was a page of ours sent in sooner than anybody types? Another site's form does not say when it was shown."""
    if not filled.shown:
        return False
    read = read_token(filled.shown, Purpose.SHOWN, keyring)
    return read is None or now.timestamp() - read.delivery_id < FASTEST.total_seconds()


def _comes_too_often(database: Database, key: str, most: int, window: timedelta, now: datetime) -> bool:
    with database.transaction() as tx:
        return tallies.count_up(tx, [key], now, window)[key] > most


def _may_be_asked(tx: Transaction, address: Address) -> tuple[int, timedelta] | None:
    """How often an address may be asked within how long; None: never. What the organisation closed itself stays closed."""
    listed = suppressions_of(tx, address.folded)
    if any(entry.reason == SuppressionReason.BY_HAND or entry.domain for entry in listed if entry.topic is None):
        return None
    return (1, _MONTH) if listed else (_MAILS_A_DAY, _DAY)


def _keep(
    tx: Transaction,
    form: SignUpForm,
    words: FormWords,
    filled: FilledForm,
    address: Address,
    topics: list[int],
    visit: Visit,
    page: str,
    now: datetime,
) -> None:
    """Keep what was sent in; who sends it in again before they confirmed it has one, with what they said last."""
    assert form.id is not None
    # Pressed twice, it is one after the other.
    tx.get(SignUpForm, form.id, with_for_update=True)
    open_one = store.open_sign_up(tx, form.id, address.folded, now - LASTS)
    sign_up = open_one or SignUp(
        form_id=form.id, at=now, address=address.text, address_folded=address.folded, topics=[], field_keys=[],
        field_texts=[], language="", wording="", page="", origin="", agent="",
    )  # fmt: skip
    sign_up.at, sign_up.topics, sign_up.due_at, sign_up.mails, sign_up.tries = now, topics, now, 0, 0
    sign_up.field_keys, sign_up.field_texts = list(filled.fields), list(filled.fields.values())
    sign_up.language, sign_up.wording, sign_up.page = words.language, words.wording, page[:500]
    sign_up.origin, sign_up.agent = visit.origin, visit.agent[:300]
    tx.add(sign_up)


def _take_in(tx: Transaction, sign_up: SignUp, visit: Visit, hasher: Hash, at: datetime) -> None:
    form = tx.get(SignUpForm, sign_up.form_id)
    assert form is not None
    for entry in suppressions_of(tx, sign_up.address_folded):
        reason = SuppressionReason(entry.reason)
        # The mail arrived, and whoever has the mailbox wants more: what only they can open, and what said that it is gone.
        if entry.domain is None and (reason in LIFTED_BY_PERSON_ALONE or reason is SuppressionReason.HARD_BOUNCE):
            lift(tx, entry.id, at=at, user_id=None, why="signed up again, and confirmed it")
    lift_erased(tx, hasher(sign_up.address_folded), at=at, why="signed up again, and confirmed it")
    known = store.contacts_at(tx, sign_up.address_folded)
    contact_id = known[0] if known else _new_contact(tx, sign_up, form, at)
    if known:
        _fill_blanks(tx, contact_id, sign_up, form, at)
    evidence = ConsentEvidence(
        wording=sign_up.wording, page=sign_up.page, origin=sign_up.origin, agent=visit.agent[:300]
    )
    for topic_id in sign_up.topics:
        consent_store.append_for_contact(
            tx,
            contact_id,
            topic_id=topic_id,
            kind=ConsentEventKind.CONFIRMED,
            at=at,
            channel=CHANNEL,
            evidence=evidence,
            mailbox=sign_up.address_folded,
        )
    sign_up.confirmed_at, sign_up.contact_id = at, contact_id
    sign_up.due_at, sign_up.tries = at if form.welcome_message_id else None, 0
    tx.add(sign_up)


def _new_contact(tx: Transaction, sign_up: SignUp, form: SignUpForm, at: datetime) -> int:
    language = sign_up.language
    contact = Contact(
        address=sign_up.address,
        address_folded=sign_up.address_folded,
        language=language,
        folded={"address": folded_value(sign_up.address), "language": folded_value(language)},
        created_at=at,
        updated_at=at,
    )
    tx.add(contact)
    tx.flush()
    assert contact.id is not None
    contact_store.write_search(tx, "SELECT CAST(:touched AS bigint)", {"touched": contact.id})
    change_set = new_change_set(tx, at=at, user_id=None, channel=CHANNEL, act=Act.SIGNED_UP, facts={"form": form.name})
    add_change(tx, change_set, contact.id, {})
    _write(tx, contact, sign_up, change_set, at)
    note_contacts(tx, change_set, 1)
    return contact.id


def _fill_blanks(tx: Transaction, contact_id: int, sign_up: SignUp, form: SignUpForm, at: datetime) -> None:
    """What is known of somebody stays; what was blank is what they said."""
    contact = contact_store.get_contact(tx, contact_id, lock=True)
    if contact is None or not sign_up.field_keys:
        return
    change_set = new_change_set(tx, at=at, user_id=None, channel=CHANNEL, act=Act.SIGNED_UP, facts={"form": form.name})
    _write(tx, contact, sign_up, change_set, at)
    note_contacts(tx, change_set, 1)


def _write(tx: Transaction, contact: Contact, sign_up: SignUp, change_set: int, at: datetime) -> None:
    fields, reading = load_fields(tx), typed_reading(tx)
    assert contact.id is not None
    for key, text in zip(sign_up.field_keys, sign_up.field_texts, strict=True):
        field = fields.get(key)
        if field is None or (getattr(contact, key) if field.standard else contact.own.get(key)) is not None:
            continue
        value = read_value(text, field, reading)
        if isinstance(value, ReadFault) or value is None:
            continue
        stored = value_to_json(value)
        people_store.put_value(tx, contact.id, key, stored=stored, folded=folded_value(value), now=at)
        add_change(tx, change_set, contact.id, {key: {"before": None, "after": stored}})
