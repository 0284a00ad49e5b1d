"""Criteria as text and as rows: read, checked against everything that they can name, and run."""

from dataclasses import dataclass
from datetime import datetime
from functools import partial

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts import FieldMap
from uvarovite.core.contacts.amounts import has_decimal_comma
from uvarovite.core.expressions import (
    Clock,
    Named,
    NamedAudience,
    Names,
    Node,
    SqlFragment,
    check_criteria,
    meant_criteria,
    parse_criteria,
    print_criteria,
)
from uvarovite.core.language import LanguageError, Problem, place_of, screen_offset
from uvarovite.core.values import fold
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences import audiences as store
from uvarovite.store.audiences.parts import part_sql
from uvarovite.store.consent.ledger import topics
from uvarovite.store.contacts.fields import criteria_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions import names as name_store
from uvarovite.store.expressions.by_hand import choose
from uvarovite.store.expressions.conditions import condition_sql
from uvarovite.store.tables import Audience

# So many contacts are counted at once, without an estimate before it.
COUNTED_WHOLE = 150_000


@dataclass(frozen=True, slots=True, kw_only=True)
class ProblemView:
    """A problem in a text, its place counted from 1; `start` and `end` from 0, in UTF-16 units as browsers count.

    `suggestion` is the whole text as it could be instead: checked, and meaning what was written. `use` is what is shown
    of it.
    """

    code: str
    message: str
    line: int
    column: int
    length: int
    start: int
    end: int
    suggestion: str | None
    use: str | None


def problem_view(problem: Problem, source: str, suggestion: str | None = None, *, shown: bool = False) -> ProblemView:
    """A problem with its place in the source, and what the whole source could be instead.

    With `shown` the problem's own suggestion is what is shown of it, else all of it.
    """
    place = place_of(source, problem.span)
    return ProblemView(
        code=problem.code,
        message=problem.message,
        line=place.line,
        column=place.column,
        length=place.length,
        start=screen_offset(source, problem.span.start),
        end=screen_offset(source, problem.span.end),
        suggestion=suggestion,
        use=suggestion if suggestion is None or not shown else problem.suggestion,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CriteriaView:
    """Criteria as text and tree; `matched` is None while there is a problem.

    With `estimated` both numbers come from a sample, and the exact ones can be asked for.
    """

    text: str
    tree: Node | None
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
    decimal_comma: bool

    def meant(self, text: str) -> str | None:
        """The criteria that were meant by a text with a fault, where one thing could be meant."""
        return meant_criteria(text, self.fields, self.names, decimal_comma=self.decimal_comma)

    def sql(self, node: Node) -> SqlFragment:
        """The condition of a tree that was checked."""
        return condition_sql(node, self.fields, self.clock, self.names)

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
                node=one.criteria,
                frozen=one.frozen_at is not None,
                narrowed=partial(narrow, one, fields) if one.part is not None else None,
            )
            for one in audiences
        },
        own=own,
        choose=partial(choose, tx),
    )
    organisation = require_organisation(tx)
    return Vocabulary(
        fields=fields,
        names=names,
        clock=Clock.at(now, organisation.time_zone),
        decimal_comma=has_decimal_comma(organisation.locale),
    )


def narrow(audience: Audience, fields: FieldMap, people: SqlFragment) -> SqlFragment:
    """The part of an audience's people that it consists of; all of them without a part.

    A field that was removed since is spread over no more.
    """
    if audience.part is None:
        return people
    part = audience.part
    field = fields.get(part.spread_over) if part.spread_over is not None else None
    return part_sql(people, part, field, prefix=f"part{audience.id}_")


@needs(Permission.LOOK)
def read_criteria(
    database: Database,
    actor: Actor,
    *,
    text: str | None = None,
    tree: Node | None = None,
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
                text = print_criteria(tree)
            except (ValueError, KeyError, IndexError) as fault:
                raise BadInput("tree", "These conditions cannot be read; write them as text.") from fault
        source = text or ""
        try:
            node = parse_criteria(source)
        except LanguageError as fault:
            problem = problem_view(fault.problem, source, known.meant(source))
            return CriteriaView(text=source, tree=None, problem=problem, matched=None, total=total)
        problems = known.problems(node)
        if problems:
            problem = problem_view(problems[0], source, known.meant(source))
            return CriteriaView(text=source, tree=node, problem=problem, matched=None, total=total)
        count = store.count_matched_about if estimate else store.count_matched
        return CriteriaView(
            text=source,
            tree=node,
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
