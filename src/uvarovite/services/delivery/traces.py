"""Everything about one person and one run, and the message exactly as they were sent it."""

import hashlib
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from email import message_from_bytes, policy
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.consent import ConsentEventKind
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.core.delivery.decisions import Decision
from uvarovite.core.delivery.dkim import SigningKey, signed
from uvarovite.core.messages import Tracked
from uvarovite.core.messages.links import link_words
from uvarovite.core.responses import MACHINE_RULES, Keyring, ResponseDetail, leaving_words
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.consent.closings import closed_words
from uvarovite.services.delivery.watching import HELD_WORDS
from uvarovite.services.errors import NotFound
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.pdfs import press_of
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.secrets import SecretLost
from uvarovite.services.organisation.signing import open_keys
from uvarovite.store import responses as response_store
from uvarovite.store.consent.ledger import ledger_of_contact
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Delivery, Message, MessageVersion, Run, Topic

_RULES = {rule.name: rule.meaning for rule in MACHINE_RULES}


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceStep:
    """One thing that happened to one person. `tone` is good, wait, bad or plain; `code` is a relay's own words."""

    at: datetime | None
    words: str
    tone: str
    code: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceView:
    """Everything about one person and one run, in order."""

    delivery_id: int
    contact_id: int
    run_id: int
    name: str
    address: str
    state: DeliveryState
    decided: Decision | None
    batch: int
    steps: list[TraceStep]


_DECIDED = {
    Decision.LEFT: "it was decided that nothing more is sent to them",
    Decision.AGAIN: "it was decided to send it to them again, in a later run",
}
_NOTED = {Tracked.BY_PERSON: "noted", Tracked.COUNTED: "counted, but not for them", Tracked.OFF: "not noted"}
_ANSWER_TONES = {"accepted": "good", "try_later": "wait", "connection": "wait"}


@needs(Permission.LOOK)
def trace(database: Database, actor: Actor, delivery_id: int) -> TraceView:
    """The trace of one delivery. Raises NotFound."""
    with database.transaction() as tx:
        delivery = tx.get(Delivery, delivery_id)
        run = tx.get(Run, delivery.run_id) if delivery else None
        topic = tx.get(Topic, run.topic_id) if run else None
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        message = tx.get(Message, version.message_id) if version else None
        if delivery is None or run is None or topic is None or version is None or message is None:
            raise NotFound("delivery")
        steps = _consent_steps(tx, delivery, topic)
        gates = len(run.clearance.gates)
        steps += [
            TraceStep(at=run.released_at, tone="good", words=f"matched: {run.criteria}"),
            TraceStep(at=run.released_at, tone="good", words=f"cleared all {gates} gates of run {run.number}"),
            TraceStep(at=run.released_at, tone="plain", words=f"planned for batch {delivery.first_batch}"),
        ]
        attempts = response_store.attempts_of(tx, delivery_id)
        for attempt in attempts:
            if attempt.number == 1:
                words = f"composed from “{message.name}”, version {version.number}, and handed to the relay"
                steps.append(TraceStep(at=attempt.at, tone="plain", words=words))
            said = f"{attempt.code} {attempt.text}".strip() if attempt.code else attempt.text or None
            count = f", at attempt {attempt.number}" if attempt.number > 1 else ""
            tone = _ANSWER_TONES.get(attempt.kind, "bad")
            steps.append(TraceStep(at=attempt.at, tone=tone, words=meaning_words(attempt.meaning) + count, code=said))
        if delivery.state == DeliveryState.DEFERRED or (delivery.next_at and delivery.state == DeliveryState.WAITING):
            steps.append(TraceStep(at=delivery.next_at, tone="wait", words="will be tried again"))
        if delivery.wish is not None:
            words = f"as they wish, what they open and follow is {_NOTED[Tracked(delivery.wish)]}"
            steps.append(TraceStep(at=delivery.marked_at, tone="plain", words=words))
        for event in response_store.events_of(tx, delivery_id):
            steps.append(_response_step(event.kind, event.at, event.machine_rule, event.detail))
        if delivery.state == DeliveryState.HELD:
            why = HELD_WORDS.get((delivery.held_gate or "", delivery.held_reason or ""), delivery.held_reason)
            whose = closed_words(tx, delivery.address_folded, run.topic_id, delivery.held_reason or "")
            held = "held back before it went out: " + ": ".join(filter(None, [why, whose]))
            steps.append(TraceStep(at=delivery.settled_at, tone="wait", words=held))
        if delivery.state == DeliveryState.STOPPED:
            steps.append(TraceStep(at=delivery.settled_at, tone="wait", words="the run was stopped before it went out"))
        if delivery.decided is not None:
            words = _DECIDED[Decision(delivery.decided)]
            steps.append(TraceStep(at=delivery.decided_at, tone="plain", words=words))
        name = " ".join(filter(None, [delivery.record.get("first_name"), delivery.record.get("last_name")]))
        return TraceView(
            delivery_id=delivery_id,
            contact_id=delivery.contact_id,
            run_id=delivery.run_id,
            name=name,
            address=delivery.address,
            state=DeliveryState(delivery.state),
            decided=Decision(delivery.decided) if delivery.decided else None,
            batch=delivery.first_batch,
            steps=steps,
        )


_CONSENT_WORDS = {
    ConsentEventKind.IMPORTED: "opted in to {topic}: {legal_basis}",
    ConsentEventKind.GRANTED: "opted in to {topic}",
    ConsentEventKind.CONFIRMED: "confirmed {topic}",
    ConsentEventKind.ASKED: "was asked about {topic}",
    ConsentEventKind.WITHDRAWN: "left {topic}",
    ConsentEventKind.PAUSED: "pauses {topic} until {until}",
    ConsentEventKind.RETRACTED: "what was recorded about {topic} by mistake was taken back",
}
_CONSENT_TONES = {
    ConsentEventKind.WITHDRAWN: "wait",
    ConsentEventKind.PAUSED: "wait",
    ConsentEventKind.RETRACTED: "plain",
    ConsentEventKind.ASKED: "plain",
}


def _consent_steps(tx: Transaction, delivery: Delivery, topic: Topic) -> list[TraceStep]:
    zone = ZoneInfo(require_organisation(tx).time_zone)
    steps = []
    for event in reversed(ledger_of_contact(tx, delivery.contact_id)):
        if event.topic == topic.name and event.evidence.delivery != delivery.id:
            kind = ConsentEventKind(event.kind)
            until = f"{event.until.astimezone(zone):%Y-%m-%d}" if event.until else ""
            words = _CONSENT_WORDS[kind].format(
                topic=topic.name,
                legal_basis=event.evidence.legal_basis or "",
                until=until,
            )
            steps.append(TraceStep(at=event.at, tone=_CONSENT_TONES.get(kind, "good"), words=words))
    return steps


_BY_MAIL = {"complained": ("bad", "complained to their provider"), "replied": ("good", "replied")}


def _response_step(kind: str, at: datetime, rule: str | None, detail: ResponseDetail) -> TraceStep:
    if kind == "left":
        return TraceStep(at=at, tone="wait", words=f"left the topic {leaving_words(detail.channel)}")
    if kind == "bounced":
        meaning = meaning_words(detail.meaning or "refused")
        return TraceStep(at=at, tone="bad", code=detail.said or detail.status, words=f"bounced: {meaning}")
    if kind in _BY_MAIL:
        return TraceStep(at=at, tone=_BY_MAIL[kind][0], words=_BY_MAIL[kind][1])
    if detail.unseen:
        return TraceStep(at=at, tone="plain", words="a machine followed a link that nobody sees")
    what = "opened" if kind == "opened" else f"clicked {link_words(detail.link or 0)}"
    if rule:
        return TraceStep(at=at, tone="plain", words=f"{what} by a machine: it {_RULES.get(rule, rule)}")
    return TraceStep(at=at, tone="good", words=f"{what}, by a person")


@dataclass(frozen=True, slots=True, kw_only=True)
class HeaderLine:
    """A header of a message."""

    name: str
    value: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SentMessage:
    """A message exactly as it was sent; `identical` tells that its bytes have the digest that was noted then."""

    subject: str
    headers: list[HeaderLine]
    html: str
    text: str
    source: str
    digest: str
    identical: bool
    sent: bool


@needs(Permission.LOOK)
def sent_message(
    database: Database, actor: Actor, delivery_id: int, *, keyring: Keyring, secret: bytes, now: datetime
) -> SentMessage:
    """What a person was sent, made again from what the delivery keeps. Raises NotFound.

    Where the installation's secret is another one by now, its signature cannot be made again, and it is not `identical`.

    Before it went out (`sent` is False) it is what they would be sent now.
    """
    with database.transaction() as tx:
        keys: tuple[SigningKey, ...] = ()
        delivery = tx.get(Delivery, delivery_id)
        run = tx.get(Run, delivery.run_id) if delivery else None
        version = tx.get(MessageVersion, run.message_version_id) if run else None
        if delivery is None or run is None or version is None:
            raise NotFound("delivery")
        composer = composer_of(tx, run, keyring, press=press_of(database))
        with suppress(SecretLost):
            keys = open_keys(tx, run.signing_keys, secret)
    composed = composer.compose(
        delivery_id=delivery_id,
        address=delivery.address,
        record_json=delivery.record,
        consent_since=delivery.consent_since,
        marked_at=delivery.marked_at or now,
        wish=Tracked(delivery.wish) if delivery.wish else None,
    )
    raw = signed(composed.raw, keys, delivery.marked_at or now)
    digest, read = hashlib.sha256(raw).hexdigest(), composed.read()
    parsed = message_from_bytes(raw, policy=policy.default)
    return SentMessage(
        subject=read.subject,
        headers=[HeaderLine(name=name, value=str(value)) for name, value in parsed.items()],
        html=read.html,
        text=read.text,
        source=raw.decode("utf-8", errors="replace"),
        digest=digest,
        identical=digest == delivery.digest,
        sent=delivery.digest is not None,
    )
