"""One meaning, two back ends: the criteria choose the same people in SQL as in Python."""

from collections.abc import Iterator
from datetime import UTC, datetime

import hypothesis
import orjson
import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from tests.support.fields import CLOCK, FIELDS, records, trees
from uvarovite.core.contacts import Value, folded_values, record_to_json
from uvarovite.core.expressions import (
    AnyOf,
    Condition,
    Node,
    Not,
    NumberLiteral,
    TextLiteral,
    compile_criteria,
    parse_criteria,
)
from uvarovite.store.database import Database, Transaction, run_sql
from uvarovite.store.expressions.conditions import condition_sql

STANDARD = ("first_name", "last_name")


@pytest.fixture
def tx(database: Database) -> Iterator[Transaction]:
    """A transaction that is never committed."""
    with database.transaction() as opened:
        yield opened
        opened.rollback()


def insert(tx: Transaction, people: list[dict[str, Value]]) -> list[int]:
    run_sql(tx, "DELETE FROM contact")
    ids = []
    for record in people:
        own = {key: value for key, value in record.items() if key not in STANDARD}
        rows = run_sql(
            tx,
            """INSERT INTO contact (first_name, last_name, own, folded, created_at, updated_at)
                VALUES (:first_name, :last_name, CAST(:own AS jsonb), CAST(:folded AS jsonb), :now, :now)
                RETURNING id""",
            {
                "first_name": record["first_name"],
                "last_name": record["last_name"],
                "own": orjson.dumps(record_to_json(own)).decode(),
                "folded": orjson.dumps(folded_values(record)).decode(),
                "now": datetime(2026, 1, 1, tzinfo=UTC),
            },
        )
        ids.append(rows[0].id)
    return ids


def condition(field: str, operator: str, *texts: str) -> Condition:
    return Condition(field=field, operator=operator, values=tuple(TextLiteral(text=text) for text in texts))


PERSON: dict[str, Value] = {
    "first_name": "ß", "last_name": "ΟΔΟΣ", "membership": None, "pledge": None, "renews_on": None, "town": "İ%_",
    "visits_last_year": None, "volunteer": None, "last_seen": None, "adopted_specimens": None,
}  # fmt: skip


# Each example is some people and some trees: with the profile's 100 examples more than 2,000 pairs are compared.
@settings(suppress_health_check=[HealthCheck.function_scoped_fixture], max_examples=hypothesis.settings().max_examples)
@given(st.lists(records, min_size=1, max_size=6), st.lists(trees, min_size=4, max_size=8))
@example([PERSON], [condition("first_name", "is", "SS"), condition("last_name", "ends_with", "ς")])
@example(
    [PERSON],
    [
        condition("town", "contains", "%"),
        condition("town", "contains", "_"),
        Not(child=condition("town", "starts_with", "")),
    ],
)
@example(
    [PERSON],
    [AnyOf(children=(Condition(field="visits_last_year", operator="is_not", values=(NumberLiteral(number=0),)),))],
)
def test_sql_and_python_choose_the_same_people(
    tx: Transaction, people: list[dict[str, Value]], nodes: list[Node]
) -> None:
    ids = insert(tx, people)
    for node in nodes:
        fragment = condition_sql(node, FIELDS, CLOCK)
        chosen = {row.id for row in run_sql(tx, f"SELECT id FROM contact WHERE {fragment.text}", fragment.parameters)}
        matches = compile_criteria(node, FIELDS)
        expected = {
            id_ for id_, record in zip(ids, people, strict=True) if matches({**dict.fromkeys(FIELDS), **record}, CLOCK)
        }
        assert chosen == expected, fragment.text


def test_what_an_author_wrote_reaches_sql_as_parameters_only() -> None:
    hostile = "x'; DROP TABLE contact; --"
    fragment = condition_sql(parse_criteria(f'town is "{hostile}"'), FIELDS, CLOCK)
    assert "DROP" not in fragment.text
    assert hostile.lower() in fragment.parameters.values()
