"""Help while criteria are written: examples of who matches, what can stand at the caret, what can be named or read."""

from dataclasses import dataclass
from datetime import datetime
from itertools import islice

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.expressions import (
    SqlFragment,
    complete_criteria,
    near_misses,
    print_criteria,
    value_options,
)
from uvarovite.core.language import from_screen_offset, screen_offset
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.expressions.criteria import criteria_vocabulary, read_node
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions import names as name_store
from uvarovite.store.expressions.by_hand import is_available, people_views

# How many people stand for all who match, and for those whom a single condition keeps out.
SAMPLES, NEAR_SAMPLES = 5, 3
# Conditions that are looked at one by one; more than this nobody reads.
MOST_NEAR = 8


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


@needs(Permission.LOOK)
def criteria_samples(
    database: Database, actor: Actor, *, text: str, audience_id: int | None = None, now: datetime
) -> SamplesView:
    """Examples of who matches, and for each condition of those whom it alone keeps out. Raises BadInput."""
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        node = read_node(text, known)
        matching = _people(tx, known.sql(node), SAMPLES)[1]
        near = []
        for one in islice(near_misses(node), MOST_NEAR):
            count, people = _people(tx, known.sql(one.people), NEAR_SAMPLES)
            near.append(NearMiss(condition=print_criteria(one.condition), count=count, people=people))
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
    """Options for the stretch from `start` to `end`, from 0 in UTF-16 units."""

    start: int
    end: int
    options: list[OptionView]


@needs(Permission.LOOK)
def complete(
    database: Database, actor: Actor, *, text: str, at: int, audience_id: int | None = None, now: datetime
) -> CompletionView:
    """What can stand at a caret, counted as browsers do: fields, operators, names, and the commonest values of a field."""
    with database.transaction() as tx:
        known = criteria_vocabulary(tx, now, audience_id)
        found = complete_criteria(text, from_screen_offset(text, at), known.fields, known.names)
        options = list(found.options)
        if found.values_of is not None:
            field = known.fields[found.values_of]
            values = name_store.usual_values(tx, field, found.typed, USUAL_VALUES)
            options = [*value_options(values, found.typed), *options]
        return CompletionView(
            start=screen_offset(text, found.start),
            end=screen_offset(text, found.end),
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


@needs(Permission.LOOK)
def views_for_sql(database: Database, actor: Actor) -> list[ViewWords]:
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


@needs(Permission.LOOK)
def criteria_names(database: Database, actor: Actor, now: datetime) -> NamesView:
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
