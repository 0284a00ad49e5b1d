"""What somebody has agreed to, and all that is known about them: for a data request, and "as of" any day."""

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import orjson

from uvarovite.core.consent import standing_at
from uvarovite.core.contacts import value_from_json, value_to_text
from uvarovite.core.contacts.tables_out import csv_lines
from uvarovite.services.organisation import require_organisation
from uvarovite.services.people import Person, person, state_now
from uvarovite.store import consent as consent_store
from uvarovite.store import contacts as store
from uvarovite.store.database import Database
from uvarovite.store.fields import load_fields


@dataclass(frozen=True, slots=True, kw_only=True)
class StandingLine:
    """Where a person stood with a topic on a day, and why: the last event until then, in words of the ledger."""

    topic: str
    state: str
    since: datetime | None
    paused_until: datetime | None
    kind: str | None
    evidence: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueLine:
    """A field's value as text."""

    label: str
    value: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentRecord:
    """One page about one person for a data request, as of the end of a day in the organisation's time zone."""

    organisation: str
    as_of: date
    made_at: datetime
    values: list[ValueLine]
    standings: list[StandingLine]
    person: Person


def consent_record(database: Database, contact_id: int, *, as_of: date | None, now: datetime) -> ConsentRecord:
    """The record of one person. Raises NotFound."""
    known = person(database, contact_id, now)
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        zone = ZoneInfo(organisation.time_zone)
        day = as_of or now.astimezone(zone).date()
        moment = min(now, datetime.combine(day, time.min, zone) + timedelta(days=1) - timedelta(microseconds=1))
        contact = store.get_contact(tx, contact_id)
        assert contact is not None
        fields = load_fields(tx)
        values = []
        for key, field in fields.items():
            text = value_to_text(value_from_json(known.record.get(key), field), field)
            if text:
                values.append(ValueLine(label=field.label, value=text))
        standings = []
        for topic in consent_store.topics(tx):
            standing = standing_at(consent_store.events_of(tx, contact_id, topic.id or 0), moment)
            last = next((line for line in known.ledger if line.topic_key == topic.key and line.at <= moment), None)
            standings.append(
                StandingLine(
                    topic=topic.name,
                    state=state_now(standing.state, standing.paused_until, moment),
                    since=standing.since,
                    paused_until=standing.paused_until,
                    kind=last.kind if last else None,
                    evidence=last.evidence if last else {},
                )
            )
        return ConsentRecord(
            organisation=organisation.name, as_of=day, made_at=now, values=values, standings=standings, person=known
        )


def record_as_json(record: ConsentRecord) -> bytes:
    """All that is known about a person, for a program."""
    return orjson.dumps(record, option=orjson.OPT_INDENT_2)


def record_as_csv(record: ConsentRecord) -> str:
    """The same as rows of (what, when, which, value), for a spreadsheet."""
    rows: list[list[str]] = [["field", "", line.label, line.value] for line in record.values]
    rows += [["topic", _when(one.since), one.topic, one.state] for one in record.standings]
    for line in reversed(record.person.ledger):
        told = "; ".join(f"{key}: {value}" for key, value in line.evidence.items())
        rows.append(["consent", _when(line.at), line.topic, f"{line.kind} ({line.way}) {told}".strip()])
    rows += [["suppression", _when(one.at), one.reason, str(one.evidence)] for one in record.person.suppressions]
    rows += [["message", _when(one.at), one.campaign, one.state] for one in record.person.sent]
    rows += [["note", _when(one.at), one.by or "", one.text] for one in record.person.notes]
    rows += [["tag", "", one, ""] for one in record.person.tags]
    return "".join(csv_lines(["what", "when", "which", "value"], rows))


def _when(moment: datetime | None) -> str:
    return moment.isoformat(timespec="seconds") if moment else ""
