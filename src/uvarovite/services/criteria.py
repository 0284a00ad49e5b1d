"""Criteria as text and as rows: read, checked against everything that they can name, and run."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import partial
from typing import Any
from typing import Literal as Tag

from pydantic import TypeAdapter

from uvarovite.core.audiences import Part, Places, Share, part_sql
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import (
    All,
    Clock,
    Named,
    NamedAudience,
    Names,
    Node,
    Not,
    SqlFragment,
    check_criteria,
    complete_criteria,
    criteria_to_sql,
    node_from_json,
    node_to_json,
    parse_criteria,
    print_criteria,
    renamed,
    value_options,
)
from uvarovite.core.language import LanguageError, Problem, place_of
from uvarovite.core.values import fold
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation import clock_for, require_organisation
from uvarovite.store import audiences as store
from uvarovite.store import criteria as name_store
from uvarovite.store.consent import topics
from uvarovite.store.database import Database, Transaction
from uvarovite.store.fields import criteria_fields, load_fields
from uvarovite.store.people_views import choose, is_available, people_views
from uvarovite.store.tables import Audience

PART: TypeAdapter[Places | Share] = TypeAdapter(Part)

# So many contacts are counted at once, without an estimate before it.
COUNTED_WHOLE = 150_000
# How many people stand for all who match, and for those whom a single condition keeps out.
SAMPLES, NEAR_SAMPLES = 5, 3
# Conditions that are looked at one by one; more than this nobody reads.
MOST_NEAR = 8


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
    """Criteria as text and tree; `matched` is None while there is a problem.

    With `estimated` both numbers come from a sample, and the exact ones can be asked for.
    """

    text: str
    tree: dict[str, Any] | None
    problem: ProblemView | None
    matched: int | None
    total: int
    estimated: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Vocabulary:
    """What criteria are checked and run against."""

    fields: FieldMap
    names: Names
    clock: Clock

    def sql(self, node: Node) -> SqlFragment:
        """The condition of a tree that was checked."""
        return criteria_to_sql(node, self.fields, self.clock, self.names)

    def problems(self, node: Node) -> list[Problem]:
        """What is wrong with a tree."""
        return check_criteria(node, self.fields, self.names)


def criteria_vocabulary(tx: Transaction, now: datetime, audience_id: int | None = None) -> Vocabulary:
    """Everything that criteria can ask about, as those of an audience see it."""
    audiences = store.audiences(tx)
    fields = criteria_fields(tx)
    own = next((fold(one.name) for one in audiences if one.id == audience_id), None)
    names = Names(
        topics={fold(one.name): Named(id=one.id or 0, name=one.name) for one in topics(tx)},
        tags={fold(one.name): Named(id=one.id, name=one.name) for one in name_store.tag_names(tx)},
        campaigns={fold(one.name): Named(id=one.id, name=one.name) for one in name_store.campaign_names(tx)},
        files={fold(name): name for name in name_store.file_names(tx)},
        audiences={
            fold(one.name): NamedAudience(
                id=one.id or 0,
                name=one.name,
                node=node_from_json(one.criteria),
                frozen=one.frozen_at is not None,
                narrowed=partial(narrow, one, fields) if one.part is not None else None,
            )
            for one in audiences
        },
        own=own,
        choose=partial(choose, tx),
    )
    clock = clock_for(require_organisation(tx).time_zone, now)
    return Vocabulary(fields=fields, names=names, clock=clock)


def narrow(audience: Audience, fields: FieldMap, people: SqlFragment) -> SqlFragment:
    """The part of an audience's people that it consists of; all of them without a part.

    A field that was removed since is spread over no more.
    """
    if audience.part is None:
        return people
    part = PART.validate_python(audience.part)
    field = fields.get(part.spread_over) if part.spread_over is not None else None
    return part_sql(people, part, field, prefix=f"part{audience.id}_")


def read_criteria(
    database: Database,
    *,
    text: str | None = None,
    tree: Mapping[str, Any] | None = None,
    audience_id: int | None = None,
    estimate: bool = False,
    now: datetime,
) -> CriteriaView:
    """Criteria from either form into both, with what is wrong or how many match. Raises BadInput for no tree.

    With `estimate` a sample is counted where all would take longer than one waits for while writing.
    """
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        total = store.count_contacts_about(tx)
        estimate = estimate and total > COUNTED_WHOLE
        if not estimate:
            total = store.count_matched(tx, SqlFragment(text="TRUE", parameters={}))
        if tree is not None:
            try:
                text = print_criteria(node_from_json(dict(tree)))
            except (ValueError, KeyError, IndexError) as fault:
                raise BadInput("tree", "These conditions cannot be read; write them as text.") from fault
        source = text or ""
        try:
            node = parse_criteria(source)
        except LanguageError as fault:
            problem = problem_view(fault.problem, source)
            return CriteriaView(text=source, tree=None, problem=problem, matched=None, total=total)
        problems = known.problems(node)
        if problems:
            problem = problem_view(problems[0], source)
            return CriteriaView(text=source, tree=node_to_json(node), problem=problem, matched=None, total=total)
        count = store.count_matched_about if estimate else store.count_matched
        return CriteriaView(
            text=source,
            tree=node_to_json(node),
            problem=None,
            matched=count(tx, known.sql(node)),
            total=total,
            estimated=estimate,
        )


def read_node(text: str, known: Vocabulary) -> Node:
    """The tree of a criteria text. Raises BadInput with the place of what is wrong."""
    try:
        node = parse_criteria(text)
        problem = next(iter(known.problems(node)), None)
    except LanguageError as fault:
        problem = fault.problem
    if problem is not None:
        raise BadInput(problem.code, problem.message, place_of(text, problem.span))
    return node


def criteria_sql(tx: Transaction, text: str, now: datetime, audience_id: int | None = None) -> SqlFragment:
    """The condition of a criteria text. Raises BadInput with the place of what is wrong."""
    known = criteria_vocabulary(tx, now, audience_id)
    return known.sql(read_node(text, known))


def rename_in_audiences(tx: Transaction, kind: Tag["audience", "topic", "campaign"], old: str, new: str) -> None:
    """Let the criteria of every audience go on naming what is called otherwise from now on."""
    if old == new:
        return
    for audience in store.audiences(tx):
        node = node_from_json(audience.criteria)
        changed = renamed(node, kind, old, new)
        if changed != node:
            audience.criteria = node_to_json(changed)
            tx.add(audience)


# ---------------------------------------------------------------- who matches, and who just does not


@dataclass(frozen=True, slots=True, kw_only=True)
class SampledPerson:
    """A person as an example."""

    id: int
    name: str
    address: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NearMiss:
    """A condition (as text) that alone keeps `count` people out, and some of them."""

    condition: str
    count: int
    people: list[SampledPerson]


@dataclass(frozen=True, slots=True, kw_only=True)
class SamplesView:
    """Some who match, and those who would but for a single condition, so that a wrong condition shows itself."""

    matching: list[SampledPerson]
    near: list[NearMiss]


def criteria_samples(database: Database, *, text: str, audience_id: int | None = None, now: datetime) -> SamplesView:
    """Examples for criteria that are joined by `and`; of others only those who match. Raises BadInput."""
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        node = read_node(text, known)
        matching = _people(tx, known.sql(node), SAMPLES)[1]
        near = []
        children = node.children if isinstance(node, All) and len(node.children) > 1 else ()
        for place, child in enumerate(children[:MOST_NEAR]):
            others = (*children[:place], Not(child=child), *children[place + 1 :])
            count, people = _people(tx, known.sql(All(children=others)), NEAR_SAMPLES)
            near.append(NearMiss(condition=print_criteria(child), count=count, people=people))
        return SamplesView(matching=matching, near=near)


def _people(tx: Transaction, sql: SqlFragment, limit: int) -> tuple[int, list[SampledPerson]]:
    rows = name_store.sample_people(tx, sql, limit)
    people = [SampledPerson(id=row.id, name=row.name, address=row.address) for row in rows]
    return (rows[0].n if rows else 0), people


# ---------------------------------------------------------------- help while writing

USUAL_VALUES = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class OptionView:
    """A text that can stand at the caret, and what it is."""

    text: str
    about: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CompletionView:
    """Options for the stretch from `start` to `end`, in characters from 0."""

    start: int
    end: int
    options: list[OptionView]


def complete(
    database: Database, *, text: str, at: int, audience_id: int | None = None, now: datetime
) -> CompletionView:
    """What can stand at a caret: fields, operators, names, and the commonest values of a field."""
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        found = complete_criteria(text, max(0, min(at, len(text))), known.fields, known.names)
        options = list(found.options)
        if found.values_of is not None:
            field = known.fields[found.values_of]
            values = name_store.usual_values(tx, field, found.typed, USUAL_VALUES)
            options = [*value_options(values, found.typed), *options]
        return CompletionView(
            start=found.start,
            end=found.end,
            options=[OptionView(text=one.text, about=one.about) for one in options],
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class NamesView:
    """What criteria can name, for pickers."""

    topics: list[str]
    tags: list[str]
    campaigns: list[str]
    files: list[str]
    audiences: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnWords:
    """A column that SQL by hand can read."""

    name: str
    type: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewWords:
    """A view that SQL by hand can read: what a row of it is, and its columns."""

    name: str
    about: str
    columns: list[ColumnWords]


def views_for_sql(database: Database) -> list[ViewWords]:
    """What SQL by hand can read; nothing where it cannot be run."""
    with database.transaction() as tx:
        if not is_available(tx):
            return []
        return [
            ViewWords(
                name=view.name,
                about=view.about,
                columns=[ColumnWords(name=column.name, type=column.type) for column in view.columns],
            )
            for view in people_views(list(load_fields(tx).values()))
        ]


def criteria_names(database: Database, now: datetime) -> NamesView:
    """Everything that criteria can name, by name."""
    with database.transaction() as tx:
        names = criteria_vocabulary(tx, now).names
        return NamesView(
            topics=[one.name for one in names.topics.values()],
            tags=[one.name for one in names.tags.values()],
            campaigns=sorted(one.name for one in names.campaigns.values()),
            files=list(names.files.values()),
            audiences=[one.name for one in names.audiences.values()],
        )
