"""What somebody has agreed to, and all that is known about them: for a data request, as of any day, in words."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import orjson

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import (
    KIND_WORDS,
    REASON_WORDS,
    STATE_WORDS,
    ConsentEventKind,
    SuppressionReason,
    evidence_words,
    standing_at,
)
from uvarovite.core.contacts import FieldMap, value_from_json, value_to_text
from uvarovite.core.contacts.tables_out import csv_lines
from uvarovite.core.messages import Tracked
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.people import LedgerLine, Person, person, state_now
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent import own_limits, tracking_wishes
from uvarovite.store.contacts import records as store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables.responses import ResponseKind


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingLine:
    """Where a person stood with a topic, and why: the last event until then."""

    topic: str
    state: str
    since: datetime | None
    paused_until: datetime | None
    because: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueLine:
    """A field's value as text."""

    label: str
    value: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordLine:
    """Something that happened: what it was about, in words, and what stands behind it."""

    at: datetime
    about: str
    words: str
    evidence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentRecord:
    """One page about one person for a data request, as of the end of a day in the organisation's time zone.

    Nothing in it is later than that day: values and tags are what they were, and what came later is not there.
    """

    organisation: str
    name: str
    as_of: date
    made_at: datetime
    came_from: str
    values: list[ValueLine]
    tags: list[str]
    standings: list[StandingLine]
    consent: list[RecordLine]
    suppression: list[RecordLine]
    messages: list[RecordLine]
    notes: list[RecordLine]


@needs(Permission.LOOK)
def consent_record(
    database: Database, actor: Actor, contact_id: int, *, as_of: date | None, now: datetime
) -> ConsentRecord:
    """The record of one person. Raises NotFound."""
    known = person(database, actor, contact_id, now, whole=True)
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        zone = ZoneInfo(organisation.time_zone)
        day = as_of or now.astimezone(zone).date()
        moment = min(now, datetime.combine(day, time.min, zone) + timedelta(days=1) - timedelta(microseconds=1))
        contact = store.get_contact(tx, contact_id)
        assert contact is not None
        fields = load_fields(tx)
        there = known.created_at <= moment
        then, tags = _as_it_was(known, moment) if there else ({}, [])
        ledger = [line for line in known.ledger if line.at <= moment]
        standings = []
        for topic in consent_store.topics(tx):
            standing = standing_at(consent_store.events_of(tx, contact_id, topic.id or 0), moment)
            last = next((line for line in ledger if line.topic_key == topic.key), None)
            state = state_now(standing.state, standing.paused_until, moment)
            standings.append(
                StandingLine(
                    topic=topic.name,
                    state=STATE_WORDS[state],
                    since=standing.since,
                    paused_until=standing.paused_until if state == "paused" else None,
                    because=_because(last) if last else "",
                )
            )
        return ConsentRecord(
            organisation=organisation.name,
            name=known.name or known.address or "",
            as_of=day,
            made_at=now,
            came_from=known.came_from or "",
            values=_values(then, fields),
            tags=tags,
            standings=standings,
            consent=[_entry(line, zone) for line in ledger],
            suppression=_post(known, moment)
            + _wishes(tx, contact_id, moment)
            + [
                RecordLine(
                    at=one.at,
                    about=one.topic or (f"everybody at {one.domain}" if one.domain else "all mail"),
                    words=REASON_WORDS[SuppressionReason(one.reason)],
                    evidence=evidence_words(one.evidence),
                )
                for one in known.suppressions
                if one.at <= moment
            ],
            messages=[
                RecordLine(
                    at=one.at,
                    about=one.campaign,
                    words=_mail_words(one.state),
                    evidence=_response_words(one.came),
                )
                for one in known.sent
                if one.at <= moment
            ]
            + [
                RecordLine(at=one.at, about=one.campaign, words="letter on paper, printed", evidence="")
                for one in known.printed
                if one.at <= moment
            ],
            notes=[
                RecordLine(at=one.at, about=one.by or "", words=one.text, evidence="")
                for one in known.notes
                if one.at <= moment
            ],
        )


def _wishes(tx: Transaction, contact_id: int, moment: datetime) -> list[RecordLine]:
    """What they asked for besides."""
    wish, since = tracking_wishes.wish_since(tx, contact_id)
    limit, limited = own_limits.limit_since(tx, contact_id)
    told = []
    if limit is not None and limited <= moment:
        told.append(RecordLine(at=limited, about="how often", words=f"at most one message a {limit}", evidence=""))
    if wish is not None and since <= moment:
        words = "counted, but not for them" if wish is Tracked.COUNTED else "not noted"
        told.append(RecordLine(at=since, about="what they open and follow", words=words, evidence=""))
    return told


def _post(known: Person, moment: datetime) -> list[RecordLine]:
    refusal = known.post_refusal
    if refusal is None or refusal.at > moment:
        return []
    return [RecordLine(at=refusal.at, about="letters on paper", words="wants no post", evidence=refusal.wording)]


def _as_it_was(known: Person, moment: datetime) -> tuple[dict[str, Any], list[str]]:
    """The record and the tags at a moment: what was changed since is taken back, the latest first."""
    then, tags = dict(known.record), set(known.tags)
    # Each change, and each undoing of one, takes away what stood before and puts something else there.
    steps = [(line.at, "before", "after", line) for line in known.history]
    steps += [(line.undone_at, "after", "before", line) for line in known.history if line.undone_at is not None]
    for at, back, there, line in sorted(steps, key=lambda step: step[0], reverse=True):
        if at <= moment:
            break
        for key, change in line.changes.items():
            if key == "tags":
                tags = (tags - set(change.get(there) or [])) | set(change.get(back) or [])
            elif isinstance(change, Mapping) and back in change:
                then[key] = change[back]
    return then, sorted(tags)


def _values(record: Mapping[str, Any], fields: FieldMap) -> list[ValueLine]:
    told = [
        (field.label, value_to_text(value_from_json(record.get(key), field), field)) for key, field in fields.items()
    ]
    return [ValueLine(label=label, value=text) for label, text in told if text]


def _because(line: LedgerLine) -> str:
    told = evidence_words(line.evidence)
    return KIND_WORDS[ConsentEventKind(line.kind)] + (f": {told}" if told else "")


def _entry(line: LedgerLine, zone: ZoneInfo) -> RecordLine:
    until = f" until {line.until.astimezone(zone):%-d %B %Y}" if line.until else ""
    by = f" (recorded by {line.recorded_by})" if line.recorded_by else ""
    words = KIND_WORDS[ConsentEventKind(line.kind)]
    return RecordLine(at=line.at, about=line.topic, words=f"{words}{until}{by}", evidence=evidence_words(line.evidence))


_MAIL_WORDS = {
    "accepted": "sent", "refused": "not delivered", "held": "held back", "stopped": "not sent", "unknown": "perhaps sent",
}  # fmt: skip


def _mail_words(state: str) -> str:
    return _MAIL_WORDS.get(state, "on its way")


def _response_words(came: Sequence[ResponseKind]) -> str:
    return ", ".join(came)


@needs(Permission.EXPORT)
def export_record(
    database: Database, actor: Actor, contact_id: int, *, as_of: date | None, now: datetime
) -> ConsentRecord:
    """The same record, to be saved as a file. Raises NotFound."""
    record = consent_record(database, actor, contact_id, as_of=as_of, now=now)
    with database.transaction() as tx:
        audit(tx, actor, Action.RECORD_EXPORTED, contact_id, contact=contact_id)
    return record


def record_as_json(record: ConsentRecord) -> bytes:
    """All that is known about a person, for a program."""
    return orjson.dumps(record, option=orjson.OPT_INDENT_2)


def record_as_csv(record: ConsentRecord) -> str:
    """The same as rows of (what, when, about, words, evidence), for a spreadsheet."""
    rows: list[list[str]] = [
        ["record of", record.as_of.isoformat(), record.organisation, record.name, ""],
        *(["field", "", line.label, line.value, ""] for line in record.values),
        *(["tag", "", one, "", ""] for one in record.tags),
        *(["topic", _when(one.since), one.topic, one.state, one.because] for one in record.standings),
        *_rows("consent", record.consent),
        *_rows("suppression", record.suppression),
        *_rows("message", record.messages),
        *_rows("note", record.notes),
    ]
    return "".join(csv_lines(["what", "when", "about", "words", "evidence"], rows))


def _rows(what: str, lines: Sequence[RecordLine]) -> list[list[str]]:
    return [[what, _when(line.at), line.about, line.words, line.evidence] for line in lines]


def _when(moment: datetime | None) -> str:
    return moment.isoformat(timespec="seconds") if moment else ""
