"""Audiences and the clearance: the number on screen, the people behind a gate and the release are one code."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.audiences import GATES
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import (
    Node,
    SqlFragment,
    check_criteria,
    criteria_to_sql,
    node_from_json,
    node_to_json,
    parse_criteria,
    print_criteria,
)
from uvarovite.core.language import LanguageError, Problem, place_of
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation import clock_for, require_organisation
from uvarovite.store import audiences as store
from uvarovite.store.campaigns import campaigns_using
from uvarovite.store.database import Database, Transaction
from uvarovite.store.fields import load_fields
from uvarovite.store.tables import Audience


@dataclass(frozen=True, slots=True, kw_only=True)
class ProblemView:
    """A problem in a text, its place counted from 1, `start` and `end` in characters from 0."""

    code: str
    message: str
    line: int
    column: int
    length: int
    start: int
    end: int
    suggestion: str | None


def problem_view(problem: Problem, source: str) -> ProblemView:
    """A problem with its place in the source."""
    place = place_of(source, problem.span)
    return ProblemView(
        code=problem.code,
        message=problem.message,
        line=place.line,
        column=place.column,
        length=place.length,
        start=problem.span.start,
        end=problem.span.end,
        suggestion=problem.suggestion,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CriteriaView:
    """Criteria as text and tree; `matched` is None while there is a problem."""

    text: str
    tree: dict[str, Any] | None
    problem: ProblemView | None
    matched: int | None
    total: int


def read_criteria(
    database: Database, *, text: str | None = None, tree: Mapping[str, Any] | None = None, now: datetime
) -> CriteriaView:
    """Criteria from either form into both, with what is wrong or how many match. Raises BadInput for no tree."""
    with database.transaction() as tx:
        fields = load_fields(tx)
        total = store.count_matched(tx, SqlFragment(text="TRUE", parameters={}))
        if tree is not None:
            try:
                text = print_criteria(node_from_json(dict(tree)))
            except (ValueError, KeyError) as fault:
                raise BadInput("tree", "These conditions cannot be read; write them as text.") from fault
        source = text or ""
        try:
            node = parse_criteria(source)
        except LanguageError as fault:
            problem = problem_view(fault.problem, source)
            return CriteriaView(text=source, tree=None, problem=problem, matched=None, total=total)
        problems = check_criteria(node, fields)
        if problems:
            problem = problem_view(problems[0], source)
            return CriteriaView(text=source, tree=node_to_json(node), problem=problem, matched=None, total=total)
        matched = store.count_matched(tx, _sql(tx, node, fields, now))
        return CriteriaView(text=source, tree=node_to_json(node), problem=None, matched=matched, total=total)


def _sql(tx: Transaction, node: Node, fields: FieldMap, now: datetime) -> SqlFragment:
    return criteria_to_sql(node, fields, clock_for(require_organisation(tx).time_zone, now))


def criteria_sql(tx: Transaction, text: str, now: datetime) -> SqlFragment:
    """The condition of a criteria text. Raises BadInput with the place of what is wrong."""
    fields = load_fields(tx)
    try:
        node = parse_criteria(text)
        problem = next(iter(check_criteria(node, fields)), None)
    except LanguageError as fault:
        problem = fault.problem
    if problem is not None:
        raise BadInput(problem.code, problem.message, place_of(text, problem.span))
    return _sql(tx, node, fields, now)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReasonView:
    """Why a gate holds some people, and how many; `names` are the first of them."""

    key: str
    words: str
    held: int
    names: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class GateView:
    """One gate: how many it holds, and how many are left behind it."""

    key: str
    label: str
    mend: str
    held: int
    left: int
    reasons: list[ReasonView]


@dataclass(frozen=True, slots=True, kw_only=True)
class ClearanceView:
    """matched = sum of held + cleared, at any moment."""

    matched: int
    cleared: int
    gates: list[GateView]
    taken_at: datetime


def gate_views(
    counts: Mapping[tuple[str | None, str | None], int], names: Mapping[tuple[str, str], list[str]]
) -> tuple[int, int, list[GateView]]:
    """(matched, cleared, gates) from the counts by (gate, reason)."""
    matched = left = sum(counts.values())
    gates = []
    for gate in GATES:
        reasons = [
            ReasonView(key=reason, words=words, held=counts[gate.key, reason], names=names.get((gate.key, reason), []))
            for reason, words in gate.reasons.items()
            if counts.get((gate.key, reason))
        ]
        held = sum(reason.held for reason in reasons)
        left -= held
        gates.append(GateView(key=gate.key, label=gate.label, mend=gate.mend, held=held, left=left, reasons=reasons))
    return matched, left, gates


def clearance(database: Database, *, text: str, topic_id: int | None, now: datetime) -> ClearanceView:
    """The clearance of criteria for a topic, with the first names behind each reason. Raises BadInput."""
    with database.transaction() as tx:
        return take_clearance(tx, criteria_sql(tx, text, now), topic_id, now)


def take_clearance(tx: Transaction, criteria: SqlFragment, topic_id: int | None, now: datetime) -> ClearanceView:
    """The clearance within a transaction."""
    counts = {(row.gate, row.reason): row.n for row in store.clearance_counts(tx, criteria, topic_id)}
    names: dict[tuple[str, str], list[str]] = {}
    for gate, reason in counts:
        if gate is not None and reason is not None:
            people = store.judged_people(tx, criteria, topic_id, gate=gate, reason=reason, limit=3)
            names[gate, reason] = [row.name or row.address or f"contact {row.id}" for row in people]
    matched, cleared, gates = gate_views(counts, names)
    return ClearanceView(matched=matched, cleared=cleared, gates=gates, taken_at=now)


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedPerson:
    """A person behind a gate, or cleared."""

    id: int
    name: str
    address: str | None
    reason: str | None


def people_behind(
    database: Database,
    *,
    text: str,
    topic_id: int | None,
    gate: str | None,
    after_id: int,
    now: datetime,
    limit: int = 100,
) -> list[JudgedPerson]:
    """The people whom a gate holds, or who are cleared (gate None), by id. Raises BadInput."""
    known = {row.key: row for row in GATES}
    if gate is not None and gate not in known:
        raise BadInput("gate", "There is no such gate.")
    with database.transaction() as tx:
        rows = store.judged_people(
            tx, criteria_sql(tx, text, now), topic_id, gate=gate, after_id=after_id, limit=min(limit, 500)
        )
        return [
            JudgedPerson(
                id=row.id,
                name=row.name,
                address=row.address,
                reason=known[gate].reasons.get(row.reason, row.reason) if gate else None,
            )
            for row in rows
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class AudienceView:
    """An audience; `edition` goes back with a change, so that nobody's work is overwritten."""

    id: int
    name: str
    text: str
    edition: int
    updated_at: datetime
    campaigns: int


def _audience_view(tx: Transaction, audience: Audience) -> AudienceView:
    assert audience.id is not None
    return AudienceView(
        id=audience.id,
        name=audience.name,
        text=print_criteria(node_from_json(audience.criteria)),
        edition=audience.edition,
        updated_at=audience.updated_at,
        campaigns=campaigns_using(tx, audience.id),
    )


def audience_list(database: Database) -> list[AudienceView]:
    """All audiences by name."""
    with database.transaction() as tx:
        return [_audience_view(tx, audience) for audience in store.audiences(tx)]


def save_audience(
    database: Database,
    *,
    audience_id: int | None,
    name: str,
    text: str,
    edition: int | None,
    user_id: int | None,
    now: datetime,
) -> AudienceView:
    """Make or change an audience. Raises BadInput for criteria with a fault, Conflict when it changed meanwhile."""
    if not name.strip():
        raise BadInput("no_name", "Give the audience a name.")
    with database.transaction() as tx:
        criteria_sql(tx, text, now)
        audience = tx.get(Audience, audience_id, with_for_update=True) if audience_id else None
        if audience_id and audience is None:
            raise NotFound("audience")
        if any(other.name == name.strip() and other.id != audience_id for other in store.audiences(tx)):
            raise BadInput("taken", f"There is an audience “{name.strip()}” already.")
        stored = node_to_json(parse_criteria(text))
        if audience is None:
            audience = Audience(name=name.strip(), criteria=stored, updated_by=user_id, updated_at=now)
        else:
            if edition != audience.edition:
                raise Conflict("changed", "Somebody else changed this audience meanwhile; look at it again.")
            audience.name, audience.criteria = name.strip(), stored
            audience.edition, audience.updated_by, audience.updated_at = audience.edition + 1, user_id, now
        tx.add(audience)
        tx.flush()
        return _audience_view(tx, audience)


def delete_audience(database: Database, audience_id: int) -> None:
    """Remove an audience that no campaign uses. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        audience = tx.get(Audience, audience_id, with_for_update=True)
        if audience is None:
            raise NotFound("audience")
        used = campaigns_using(tx, audience_id)
        if used:
            raise Conflict("used", f"{used} campaign(s) use this audience; choose another one there first.")
        tx.delete(audience)
