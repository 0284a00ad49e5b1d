"""Mail that comes in: kept as it came, then matched with what it is about, and acted on.

What is kept cannot be lost, whatever happens to the acting. Whoever could not have had a message cannot make it act: only
what carries a token of ours suppresses an address at once. The rest is noted, and counts a little.
"""

import hashlib
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

import structlog

from uvarovite.core.consent import ConsentEvidence, SuppressionReason
from uvarovite.core.delivery.answers import as_kept, meaning_words
from uvarovite.core.responses import (
    Keyring,
    Purpose,
    ResponseDetail,
    read_leave_address,
    read_return_address,
    read_token,
)
from uvarovite.core.responses.inbound import (
    ClassifiedMail,
    Happened,
    MailKind,
    RecipientReport,
    Weight,
    classify_mail,
)
from uvarovite.core.responses.inbound.reading import LONGEST_TEXT
from uvarovite.services.delivery.braking import brake_if_needed
from uvarovite.services.responses.forwarding import forward_if_wished
from uvarovite.services.responses.leaving import take_out
from uvarovite.services.responses.reader import reader_of_delivery
from uvarovite.store import inbound as store
from uvarovite.store.campaigns.campaigns import lock_run
from uvarovite.store.consent.suppressions import suppress
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import holding
from uvarovite.store.live import tell_responses
from uvarovite.store.responses import add_event
from uvarovite.store.tables import Delivery, InboundMail, Run
from uvarovite.store.tables.responses import ResponseKind

log = structlog.get_logger()

# An address that mail came back from softly, of so many messages within so long, is taken for gone.
SOFT_BOUNCES, SOFT_WITHIN = 3, timedelta(days=30)
# A message that cannot be acted on is left for somebody to look at.
MOST_TRIES = 5
RAW_KEPT = timedelta(days=90)
_OWN_ID = re.compile(r"<(\d{1,18})\.(\d{1,18})\.[^@<>]*@([^<>\s]+)>")
_TOKENS = re.compile(r"[A-Za-z0-9_-]{30,}")


class MatchedBy(StrEnum):
    """How the delivery was found that a message is about. The first four carry a token of ours."""

    ENVELOPE = "envelope"
    LEAVE_ADDRESS = "leave_address"
    RETURNED = "returned"
    LINK = "link"
    MESSAGE_ID = "message_id"
    ADDRESS = "address"

    @property
    def is_signed(self) -> bool:
        """Can only somebody have written it to whom the message came?"""
        return self not in (MatchedBy.MESSAGE_ID, MatchedBy.ADDRESS)


class Effect(StrEnum):
    """What was done about a message."""

    SUPPRESSED = "suppressed"
    NOTED = "noted"
    LEFT = "left"
    NOTHING = "nothing"
    NOBODY = "nobody"


@dataclass(frozen=True, slots=True)
class _Match:
    delivery: Delivery
    by: MatchedBy


def is_ours(database: Database, address: str, *, keyring: Keyring) -> bool:
    """Is mail for an address taken? For one that a message comes back to, and for those that our mail is from."""
    if any(read(address, keyring) is not None for read in (read_return_address, read_leave_address)):
        return True
    with database.transaction() as tx:
        return store.is_from_us(tx, address.lower())


def take_in(database: Database, *, raw: bytes, sender: str, recipients: Sequence[str], now: datetime) -> int:
    """Keep a message as it came; its number. Once it is back, the message cannot be lost."""
    with database.transaction() as tx:
        return keep_mail(tx, raw=raw, sender=sender, recipients=recipients, now=now)


def keep_mail(tx: Transaction, *, raw: bytes, sender: str, recipients: Sequence[str], now: datetime) -> int:
    """The same within a transaction."""
    sender, recipients = as_kept(sender), [as_kept(one) for one in recipients]
    digest = hashlib.sha256(b"\0".join([sender.encode(), *(one.encode() for one in sorted(recipients)), raw]))
    return store.keep(tx, digest=digest.hexdigest(), sender=sender, recipients=recipients, raw=raw, now=now)


def act_on_next(database: Database, *, keyring: Keyring, now: datetime) -> int:
    """Act on the message that came first of those that nothing was done about; how many. A run may brake by it."""
    failed: int | None = None
    try:
        with database.transaction() as tx:
            mail = store.next_to_do(tx, MOST_TRIES)
            if mail is None:
                return 0
            failed = mail.id
            run_id = _act(tx, mail, keyring, now)
    except Exception:
        if failed is None:
            raise
        log.exception("a message could not be acted on", mail=failed)
        with database.transaction() as tx:
            store.note_try(tx, failed)
        return 1
    if run_id is not None:
        # Whoever brakes a run locks it before its deliveries: a transaction of its own.
        with database.transaction() as tx:
            run = lock_run(tx, run_id)
            if run is not None:
                brake_if_needed(tx, run_id, run.pace, now)
    return 1


def let_go_of_raw(database: Database, now: datetime) -> int:
    """Let go of messages as they came that are older than they are kept; how many."""
    with database.transaction() as tx:
        return store.let_go_of_raw(tx, now - RAW_KEPT)


def _act(tx: Transaction, mail: InboundMail, keyring: Keyring, now: datetime) -> int | None:
    """Act on a message; the run that it speaks against, if it does."""
    asked_by_address = any(read_leave_address(one, keyring) is not None for one in mail.recipients)
    told = classify_mail(mail.raw or b"", sender=mail.sender, came_to_leave=asked_by_address)
    match = _match(tx, mail, told, keyring)
    mail.kind, mail.sign, mail.own = told.kind, told.sign, as_kept(told.own, LONGEST_TEXT)
    mail.from_name = as_kept(told.from_name)
    mail.subject, mail.from_address = as_kept(told.subject), told.from_address and as_kept(told.from_address)
    effect = Effect.NOTHING if told.kind in (MailKind.AUTOMATIC, MailKind.OTHER) else Effect.NOBODY
    if match is not None:
        mail.delivery_id, mail.contact_id, mail.matched_by = match.delivery.id, match.delivery.contact_id, match.by
        effect = _effect(tx, mail, told, match, now)
    if told.kind is MailKind.REPLY:
        forward_if_wished(tx, mail, now)
    mail.effect, mail.acted_at = effect, now
    tell_responses(tx, ())
    tx.add(mail)
    speaks_against = told.kind in (MailKind.REPORT, MailKind.COMPLAINT) and effect is not Effect.NOTHING
    return match.delivery.run_id if match is not None and speaks_against else None


def _effect(tx: Transaction, mail: InboundMail, told: ClassifiedMail, match: _Match, now: datetime) -> Effect:
    match told.kind:
        case MailKind.REPORT:
            return _bounced(tx, mail, told.reports, match, now)
        case MailKind.COMPLAINT:
            return _complained(tx, mail, match, now)
        case MailKind.LEAVE:
            evidence = ConsentEvidence(delivery=match.delivery.id, wording=mail.own or mail.subject)
            detail = ResponseDetail(channel="mail", mail=mail.id)
            reader = reader_of_delivery(tx, match.delivery)
            take_out(tx, reader, channel="mail", evidence=evidence, detail=detail, now=now)
            return Effect.LEFT
        case MailKind.REPLY:
            detail = ResponseDetail(mail=mail.id)
            add_event(tx, match.delivery, ResponseKind.REPLIED, now, machine_rule=None, detail=detail)
            return Effect.NOTED
        case _:
            return Effect.NOTHING


def _bounced(
    tx: Transaction, mail: InboundMail, reports: Sequence[RecipientReport], match: _Match, now: datetime
) -> Effect:
    failed = [one for one in reports if one.happened is Happened.FAILED]
    if not failed:
        return Effect.NOTHING
    address = match.delivery.address_folded
    # Of several recipients the one that we wrote to; another's is one to whom they had it sent on.
    one = next((told for told in failed if told.address in (address, None)), failed[0])
    is_theirs = one.address in (address, None)
    is_hard = one.weight is Weight.HARD and is_theirs and match.by.is_signed
    counts = one.weight is not Weight.NONE
    detail = ResponseDetail(mail=mail.id, meaning=one.meaning, status=one.status, said=one.said[:300], counts=counts)
    add_event(tx, match.delivery, ResponseKind.BOUNCED, now, machine_rule=None, detail=detail)
    if counts and not is_hard:
        others = store.bounces_since(tx, address, now - SOFT_WITHIN, match.delivery.id or 0)
        is_hard = others + 1 >= SOFT_BOUNCES
    if not is_hard:
        return Effect.NOTED
    said = one.said or meaning_words(one.meaning)
    _suppress(tx, match.delivery, SuppressionReason.HARD_BOUNCE, said, now)
    return Effect.SUPPRESSED


def _complained(tx: Transaction, mail: InboundMail, match: _Match, now: datetime) -> Effect:
    detail = ResponseDetail(mail=mail.id)
    add_event(tx, match.delivery, ResponseKind.COMPLAINED, now, machine_rule=None, detail=detail)
    if not match.by.is_signed:
        return Effect.NOTED
    _suppress(tx, match.delivery, SuppressionReason.COMPLAINT, "complained to their provider", now)
    return Effect.SUPPRESSED


def _suppress(tx: Transaction, delivery: Delivery, reason: SuppressionReason, said: str, now: datetime) -> None:
    evidence = ConsentEvidence(answer=said, delivery=delivery.id)
    address = delivery.address_folded
    holding.hold_suppressed(tx, address_folded=address, domain=None, topic_id=None, reason=reason, now=now)
    suppress(tx, reason=reason, evidence=evidence, at=now, address_folded=address)


def _match(tx: Transaction, mail: InboundMail, told: ClassifiedMail, keyring: Keyring) -> _Match | None:
    """The delivery that a message is about: by a token of ours, else by a Message-ID, else by an address.

    A person's letter is about what they were sent: without a token it has to come from the address that it went to.
    """
    for by, numbers in (
        (MatchedBy.ENVELOPE, [read_return_address(one, keyring) for one in mail.recipients]),
        (MatchedBy.LEAVE_ADDRESS, [read_leave_address(one, keyring) for one in mail.recipients]),
        (MatchedBy.RETURNED, [read_return_address(one, keyring) for one in told.returned_to]),
        (MatchedBy.LINK, [_number_in(one, keyring) for one in told.leaving]),
    ):
        found = next((tx.get(Delivery, number) for number in numbers if number is not None), None)
        if found is not None and found.marked_at is not None:
            return _Match(found, by)
    theirs = _addresses(told)
    for own in filter(None, map(_OWN_ID.fullmatch, told.about)):
        delivery, run = tx.get(Delivery, int(own[2])), tx.get(Run, int(own[1]))
        if (
            delivery is not None
            and run is not None
            and (delivery.run_id, run.snapshot.letterhead.list_domain) == (run.id, own[3])
            and delivery.marked_at is not None
            and delivery.address_folded in theirs
        ):
            return _Match(delivery, MatchedBy.MESSAGE_ID)
    for address in theirs:
        delivery = store.delivery_lately(tx, address, mail.received_at)
        if delivery is not None:
            return _Match(delivery, MatchedBy.ADDRESS)
    return None


def _addresses(told: ClassifiedMail) -> list[str]:
    """Whom a message is about, by what it says itself."""
    if told.kind is MailKind.REPORT:
        named = [one.address for one in told.reports]
    else:
        named = [told.complained_of if told.kind is MailKind.COMPLAINT else told.from_address]
    # What no contact can have is not looked for.
    return [one for one in named if one is not None and one.isprintable()]


def _number_in(header: str, keyring: Keyring) -> int | None:
    """The delivery whose link to leave stands in a List-Unsubscribe header."""
    tokens = (read_token(one, Purpose.UNSUBSCRIBE, keyring) for one in _TOKENS.findall(header))
    return next((token.delivery_id for token in tokens if token is not None), None)
