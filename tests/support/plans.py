"""Which tables are read from end to end by what a service does: the plan of every statement, on its way."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import event

from uvarovite.store.database import Database

# What has as many rows as there are contacts, or more.
LARGE = frozenset(
    {
        "contact", "contact_search", "contact_tag", "contact_change", "contact_note", "consent", "consent_event", "delivery",
        "attempt", "sent_mail", "response_event", "suppression", "audience_member", "address_closing",
    }
)  # fmt: skip


@contextmanager
def read_whole(database: Database) -> Iterator[set[str]]:
    """The large tables that are read from end to end, since no index would do.

    Sequential scans are made dear, so that the planner takes one only where there is nothing else.
    """
    found: set[str] = set()

    def before(_: Any, cursor: Any, statement: str, parameters: Any, *more: Any) -> None:
        word = statement.lstrip().split(None, 1)[0].upper()
        if word not in {"SELECT", "WITH", "UPDATE", "DELETE", "INSERT"}:
            return
        cursor.execute("SET LOCAL enable_seqscan = off")
        cursor.execute(f"EXPLAIN {statement}", parameters)
        for (line,) in cursor.fetchall():
            if "Seq Scan on" in line:
                table = line.split("Seq Scan on ")[1].split()[0]
                if table in LARGE:
                    found.add(f"{table}: {' '.join(statement.split())[:160]}")

    engine = database._engine
    event.listen(engine, "before_cursor_execute", before)
    try:
        yield found
    finally:
        event.remove(engine, "before_cursor_execute", before)


@contextmanager
def statements_of(database: Database) -> Iterator[list[str]]:
    """Every statement, as it is sent."""
    told: list[str] = []

    def before(_: Any, cursor: Any, statement: str, *more: Any) -> None:
        told.append(" ".join(statement.split()))

    engine = database._engine
    event.listen(engine, "before_cursor_execute", before)
    try:
        yield told
    finally:
        event.remove(engine, "before_cursor_execute", before)
