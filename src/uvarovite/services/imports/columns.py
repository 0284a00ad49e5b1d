"""What becomes of a file's columns: found out, chosen, remembered for the next file with the same ones."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from itertools import islice
from zoneinfo import ZoneInfo

from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.days import DateOrder
from uvarovite.core.contacts.evidence import Doubt, Evidence
from uvarovite.core.contacts.import_plan import ColumnPlan, ImportKey, Policy
from uvarovite.core.contacts.matching import Match, match_columns, plain_name
from uvarovite.core.contacts.sheets import Sheet
from uvarovite.core.contacts.validating import Column, ColumnUse, Validator
from uvarovite.core.values import fold
from uvarovite.services.contacts.erasures import Hash
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences.audiences import audiences
from uvarovite.store.consent import ledger as consent_store
from uvarovite.store.consent.suppressions import erased_hashes
from uvarovite.store.database import Transaction
from uvarovite.store.tables import ColumnMemory, Import

# How many rows are looked at to tell what a column holds.
_PROFILED = 300
_UNSEEN = ColumnPlan(use=ColumnUse.LEAVE_OUT)


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnChoice:
    """What somebody chose for a column, in the words of ColumnMatch."""

    use: str
    field: str | None = None
    date_order: str | None = None
    century: int | None = None
    decimal_comma: bool | None = None
    policy: str = "overwrite"


def validated_columns(columns: Sequence[ColumnChoice], draft: Import, fields: FieldMap) -> tuple[ColumnPlan, ...]:
    """The plans that were chosen. Raises BadInput."""
    used = [one.field for one in columns if one.use == ColumnUse.FIELD]
    wrong = len(columns) != len(draft.headers) or any(key not in fields for key in used)
    wrong |= any(one.use not in set(ColumnUse) or one.policy not in set(Policy) for one in columns)
    wrong |= any(one.date_order is not None and one.date_order not in set(DateOrder) for one in columns)
    wrong |= any(one.century not in (None, 1900, 2000) for one in columns)
    if wrong:
        raise BadInput("columns", "These columns do not go with this file; bring it in again.")
    for key in used:
        if key is not None and used.count(key) > 1:
            raise BadInput("columns", f"Two columns go into {fields[key].label}; choose one of them.")
    before = draft.columns or (_UNSEEN,) * len(columns)
    return tuple(
        ColumnPlan(
            use=ColumnUse(one.use),
            field=one.field if one.use == ColumnUse.FIELD else None,
            date_order=DateOrder(one.date_order) if one.date_order is not None else None,
            century=one.century,
            decimal_comma=one.decimal_comma,
            policy=Policy(one.policy),
            # What its cells leave open stays so while it goes into the same field.
            doubts=old.doubts if old.field == one.field else (),
        )
        for one, old in zip(columns, before, strict=True)
    )


def profile_of(sheet: Sheet) -> list[list[str]]:
    """The first cells of each column that are not blank."""
    found: list[list[str]] = [[] for _ in sheet.headers]
    for _, cells in islice(sheet.rows(), _PROFILED):
        for column, cell in zip(found, cells, strict=False):
            if cell.strip():
                column.append(cell.strip())
    return found


def fingerprint(headers: Sequence[str]) -> str:
    return hashlib.sha256("\x1f".join(plain_name(header) for header in headers).encode()).hexdigest()


def topic_words(tx: Transaction) -> dict[str, str]:
    """What a cell may call a topic, folded: its key or its name."""
    words: dict[str, str] = {}
    for topic in consent_store.topics(tx):
        words |= {fold(topic.name): topic.key, fold(topic.key): topic.key}
    return words


def matches_of(tx: Transaction, draft: Import, profile: list[list[str]], fields: FieldMap) -> list[Match]:
    zone = ZoneInfo(require_organisation(tx).time_zone)
    remembered = tx.get(ColumnMemory, fingerprint(draft.headers))
    memory = [plan.column(zone) for plan in remembered.columns] if remembered else None
    found = _in_zone(match_columns(draft.headers, profile, fields, topics=topic_words(tx), memory=memory), zone)
    if draft.columns:
        chosen = [plan.column(zone) for plan in draft.columns]
        # What somebody chose is what counts; the match adds what it knows about the cells. A column that was left as it
        # was found is as sure as it was.
        doubts = [frozenset(plan.doubts) for plan in draft.columns]
        return [
            replace(match, column=column, basis="chosen", doubts=match.doubts | open_)
            if _plain(column) != _plain(before.column)
            else replace(
                match, column=column, basis=before.basis, confidence=before.confidence, doubts=match.doubts | open_
            )
            for match, column, before, open_ in zip(
                match_columns(draft.headers, profile, fields, memory=chosen), chosen, found, doubts, strict=True
            )
        ]
    if remembered is not None:
        draft.columns = remembered.columns
        draft.choices = replace(draft.choices, key=ImportKey(remembered.key))
    return found


def _in_zone(matches: list[Match], zone: ZoneInfo) -> list[Match]:
    """The matches, with times that name no zone read in the organisation's."""
    return [
        replace(match, column=replace(match.column, reading=replace(match.column.reading, zone=zone)))
        for match in matches
    ]


def _plain(column: Column) -> tuple[str, str | None, DateOrder | None, int | None, bool | None]:
    """What can be chosen about a column."""
    reading = column.reading
    return column.use, column.field, reading.date_order, reading.century, reading.decimal_comma


def with_evidence(matches: Sequence[Match], evidence: Mapping[int, Evidence]) -> list[Match] | None:
    """The matches, once all cells of a file were seen that the first of them did not tell about; None: nothing is new.

    A column whose first cells decided how it writes days or numbers, and whose later ones contradict them, is asked
    about: it is read with nothing assumed until somebody says it.
    """
    found = []
    for place, match in enumerate(matches):
        new = evidence[place].reading()[1] - match.doubts if place in evidence else frozenset()
        reading = match.column.reading
        if Doubt.DATE_ORDER in new:
            reading = replace(reading, date_order=None)
        if Doubt.DECIMAL in new:
            reading = replace(reading, decimal_comma=None)
        found.append(replace(match, column=replace(match.column, reading=reading), doubts=match.doubts | new))
    return found if found != list(matches) else None


def validator_of(tx: Transaction, columns: Sequence[Column], fields: FieldMap, hasher: Hash) -> Validator:
    erased = erased_hashes(tx)
    return Validator(
        columns=columns,
        fields=fields,
        topics=topic_words(tx),
        audiences={fold(one.name): one.id or 0 for one in audiences(tx)},
        is_erased=(lambda address: hasher(address) in erased) if erased else (lambda address: False),
    )


def remember_columns(tx: Transaction, draft: Import, now: datetime) -> None:
    tx.merge(
        ColumnMemory(fingerprint=fingerprint(draft.headers), columns=draft.columns, key=draft.choices.key.value, at=now)
    )
