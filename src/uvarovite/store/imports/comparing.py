"""Comparing a file's staged rows with who is there.

The comparison is made anew each time that a file is looked at and before it is written, since others work meanwhile. It
is set-based: a statement handles a million rows as it does ten.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any, NamedTuple

from sqlalchemy import Row

from uvarovite.core.contacts.import_plan import ImportKey, Policy
from uvarovite.store.consent.closings import CLOSED, OPEN_TO_OTHERS, STANDING_JOINS
from uvarovite.store.contacts.records import STANDARD
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.imports.staging import staged
from uvarovite.store.naming import name_sql


@dataclass(frozen=True, slots=True, kw_only=True)
class Rules:
    """How a file's rows meet who is there. `policies` by field key; what is not named is overwritten."""

    key: ImportKey = ImportKey.NUMBER
    policies: Mapping[str, Policy] | None = None

    def keys(self, policy: Policy) -> list[str]:
        """The fields with a policy."""
        return [key for key, one in (self.policies or {}).items() if one is policy]


def _resolve_sql(table: str, key: ImportKey) -> Iterator[str]:
    by_number = key is ImportKey.NUMBER
    number, address = "'n' || staged.contact_no", "'a' || staged.address_folded"
    who = f"coalesce({number}, {address})" if by_number else f"coalesce({address}, {number})"
    only_without_address = "" if by_number else "staged.address_folded IS NULL AND"
    # Most rows of a large file are new, so that is what a row is until something else is found out about it.
    yield f"""CREATE TEMP TABLE verdict ON COMMIT DROP AS
        SELECT staged.row, staged.record, numbered.id AS contact_id, CASE WHEN numbered.id IS NULL THEN 'new' ELSE 'found' END AS verdict,
            min(row) OVER (PARTITION BY {who}) AS first_row, staged.address_folded, staged.contact_no
        FROM {table} AS staged LEFT JOIN contact AS numbered ON {only_without_address}
            numbered.contact_no = staged.contact_no AND numbered.deleted_at IS NULL"""
    yield "UPDATE verdict SET verdict = 'repeated' WHERE first_row <> row"
    # Who is meant: by contact number; else by address, where only one person has it.
    other_number = "AND (staged.contact_no IS NULL OR contact.contact_no IS NULL)" if by_number else ""
    yield f"""WITH candidate AS (
            SELECT staged.row, min(contact.id) AS id, count(*) AS people FROM verdict AS staged
            JOIN contact ON contact.address_folded = staged.address_folded AND contact.deleted_at IS NULL
            WHERE staged.verdict = 'new' {other_number}
            GROUP BY staged.row)
        UPDATE verdict SET contact_id = CASE WHEN people = 1 THEN candidate.id END,
            verdict = CASE WHEN people > 1 THEN 'ambiguous' ELSE 'found' END
        FROM candidate WHERE candidate.row = verdict.row"""
    yield """UPDATE verdict SET verdict = 'same_person', first_row = placed.first FROM (
            SELECT row, min(row) OVER (PARTITION BY contact_id) AS first FROM verdict WHERE verdict = 'found') AS placed
        WHERE placed.row = verdict.row AND placed.first <> placed.row"""


def outcome_sql(rules: Rules, table: str, row: str = "staged") -> dict[str, str]:
    """For each column of `contact`, the SQL of its value after the row is taken over, by the fields' policies."""
    policies = rules.policies or {}

    def pick(column: str, policy: Policy) -> str:
        new, old = f"{row}.{column}", f"contact.{column}"
        return {
            Policy.OVERWRITE: f"coalesce({new}, {old})",
            Policy.FILL: f"coalesce({old}, {new})",
            Policy.KEEP: old,
        }[policy]

    outcome = {key: pick(key, policies.get(key, Policy.OVERWRITE)) for key in STANDARD}
    # The same address in other letters is no change: the spelling that was there first stays.
    outcome["address"] = (
        f"CASE WHEN {row}.address_folded = contact.address_folded THEN contact.address ELSE {outcome['address']} END"
    )
    outcome["address_folded"] = pick("address_folded", policies.get("address", Policy.OVERWRITE))
    for column in ("own", "folded"):
        new = f"CAST({row}.{column} AS jsonb)"
        outcome[column] = f"((({new} - :others_than_fill) || contact.{column}) || ({new} - :kept_or_filled))"
    return outcome


def rule_parameters(tx: Transaction, rules: Rules) -> dict[str, Any]:
    fill, keep = rules.keys(Policy.FILL), rules.keys(Policy.KEEP)
    known = [row.key for row in run_sql(tx, "SELECT key FROM contact_field")]
    return {
        "others_than_fill": [key for key in (*known, *STANDARD) if key not in fill],
        "kept_or_filled": [*fill, *keep],
    }


def with_lists(sql: str) -> str:
    return sql.replace(":others_than_fill", "CAST(:others_than_fill AS text[])").replace(
        ":kept_or_filled", "CAST(:kept_or_filled AS text[])"
    )


class RowCounts(NamedTuple):
    """How many rows of a file are new people, change somebody, change nothing, are refused."""

    new: int
    changed: int
    same: int
    refused: int


def resolve_rows(tx: Transaction, import_id: int, rules: Rules) -> RowCounts:
    """Decide for each staged row whether it is new, changed, the same or refused, in the temporary table `verdict`.

    Returns the counts; refused rows that the comparison found get their place in `import_refusal`.
    """
    table = staged(import_id)
    # A million rows are sorted and joined in memory rather than on disk.
    change_sql(tx, "SET LOCAL work_mem = '256MB'")
    change_sql(tx, "DROP TABLE IF EXISTS pg_temp.verdict")
    change_sql(
        tx,
        "DELETE FROM import_refusal WHERE import_id = :id AND code IN ('repeated', 'same_person', 'ambiguous', 'number_taken')",
        {"id": import_id},
    )
    for statement in _resolve_sql(table, rules.key):
        change_sql(tx, statement)
    outcome = outcome_sql(rules, table)
    after = ", ".join(outcome[column] for column in (*STANDARD, "own"))
    before = ", ".join(f"contact.{column}" for column in (*STANDARD, "own"))
    change_sql(
        tx,
        with_lists(
            f"""UPDATE verdict SET verdict = CASE WHEN ({after}) IS NOT DISTINCT FROM ({before}) THEN 'same'
                    ELSE 'changed' END
                FROM {table} AS staged, contact
                WHERE verdict.verdict = 'found' AND contact.id = verdict.contact_id AND staged.row = verdict.row"""
        ),
        rule_parameters(tx, rules),
    )
    # A number that another contact has, or that two rows would take, cannot be given.
    change_sql(
        tx,
        """UPDATE verdict SET verdict = 'number_taken' FROM contact
            WHERE verdict.contact_no IS NOT NULL AND contact.contact_no = verdict.contact_no
                AND contact.deleted_at IS NULL AND contact.id IS DISTINCT FROM verdict.contact_id
                AND verdict.verdict IN ('new', 'changed')""",
    )
    # The cells are added when they are shown: the file holds them.
    change_sql(
        tx,
        """INSERT INTO import_refusal (import_id, row, record, code, faults, cells)
            SELECT :id, row, record, verdict, jsonb_build_object('faults', jsonb_build_array(jsonb_build_object(
                'code', verdict, 'facts', CASE WHEN verdict IN ('repeated', 'same_person')
                    THEN jsonb_build_object('first', CAST(first_row AS text))
                    WHEN verdict = 'number_taken' THEN jsonb_build_object('number', contact_no) ELSE '{}' END))), '{}'
            FROM verdict WHERE verdict IN ('repeated', 'same_person', 'ambiguous', 'number_taken')""",
        {"id": import_id},
    )
    change_sql(tx, "ANALYZE verdict")
    counts = {row.verdict: row.n for row in run_sql(tx, "SELECT verdict, count(*) AS n FROM verdict GROUP BY 1")}
    refused = run_sql(tx, "SELECT count(*) FROM import_refusal WHERE import_id = :id", {"id": import_id})
    return RowCounts(
        new=counts.get("new", 0),
        changed=counts.get("changed", 0),
        same=counts.get("same", 0),
        refused=int(refused[0][0]),
    )


_AS_RECORD = """CAST({row}.own AS jsonb) || jsonb_strip_nulls(jsonb_build_object('contact_no', {row}.contact_no,
    'address', {row}.address, 'first_name', {row}.first_name, 'last_name', {row}.last_name,
    'language', {row}.language))"""


def changed_samples(tx: Transaction, import_id: int, rules: Rules, *, after_row: int, limit: int) -> list[Row[Any]]:
    """Changed rows beside what is there now, behind a row: (row, contact_id, name, before, after)."""
    outcome = outcome_sql(rules, staged(import_id))
    after = ", ".join(f"'{key}', {outcome[key]}" for key in STANDARD)
    return list(
        run_sql(
            tx,
            with_lists(
                f"""SELECT verdict.row, contact.id AS contact_id,
                    concat_ws(' ', contact.first_name, contact.last_name) AS name,
                    {_AS_RECORD.format(row="contact")} AS before,
                    {outcome["own"]} || jsonb_strip_nulls(jsonb_build_object({after})) AS after
                FROM verdict JOIN {staged(import_id)} AS staged ON staged.row = verdict.row
                JOIN contact ON contact.id = verdict.contact_id
                WHERE verdict.verdict = 'changed' AND verdict.row > :after ORDER BY verdict.row LIMIT :limit"""
            ),
            {**rule_parameters(tx, rules), "after": after_row, "limit": limit},
        )
    )


def changed_fields(tx: Transaction, import_id: int, rules: Rules) -> dict[str, int]:
    """How many of the changed rows change each field."""
    outcome = outcome_sql(rules, staged(import_id))
    standard = " UNION ALL ".join(
        f"SELECT '{key}' WHERE ({outcome[key]}) IS DISTINCT FROM contact.{key}" for key in STANDARD
    )
    rows = run_sql(
        tx,
        with_lists(
            f"""SELECT changed.key, count(*) AS n FROM verdict
            JOIN {staged(import_id)} AS staged ON staged.row = verdict.row
            JOIN contact ON contact.id = verdict.contact_id
            CROSS JOIN LATERAL (
                SELECT one.key FROM jsonb_each({outcome["own"]}) AS one
                WHERE one.value IS DISTINCT FROM contact.own->one.key
                UNION ALL {standard}) AS changed(key)
            WHERE verdict.verdict = 'changed' GROUP BY 1"""
        ),
        rule_parameters(tx, rules),
    )
    return {row.key: row.n for row in rows}


def number_meetings(tx: Transaction, import_id: int, *, limit: int) -> list[Row[Any]]:
    """The first rows whose contact number belongs to a contact with another address, and how many there are.

    (row, contact_no, address, name, their_address, n)
    """
    return list(
        run_sql(
            tx,
            f"""SELECT staged.row, staged.contact_no, staged.address, {name_sql("contact")} AS name,
                    contact.address AS their_address, count(*) OVER () AS n
                FROM {staged(import_id)} AS staged JOIN contact ON contact.contact_no = staged.contact_no
                    AND contact.deleted_at IS NULL AND contact.address_folded <> staged.address_folded
                ORDER BY staged.row LIMIT :limit""",
            {"limit": limit},
        )
    )


def new_samples(tx: Transaction, import_id: int, *, after_row: int, limit: int) -> list[Row[Any]]:
    """New rows behind a row: (row, record)."""
    return list(
        run_sql(
            tx,
            f"""SELECT verdict.row, {_AS_RECORD.format(row="staged")} AS record
                FROM verdict JOIN {staged(import_id)} AS staged ON staged.row = verdict.row
                WHERE verdict.verdict = 'new' AND verdict.row > :after ORDER BY verdict.row LIMIT :limit""",
            {"after": after_row, "limit": limit},
        )
    )


def consent_outlook(tx: Transaction, import_id: int, topic_id: int) -> dict[str, int]:
    """How many of the people would be subscribed, are already, and have left and stay out."""
    row = run_sql(
        tx,
        f"""SELECT count(*) FILTER (WHERE {OPEN_TO_OTHERS}) AS subscribed,
                count(*) FILTER (WHERE consent.state = 'subscribed' AND NOT {CLOSED}) AS already,
                count(*) FILTER (WHERE {CLOSED}) AS left_before
            FROM (SELECT verdict.contact_id AS id, coalesce(staged.address_folded, contact.address_folded) AS address_folded
                FROM verdict JOIN {staged(import_id)} AS staged ON staged.row = verdict.row
                LEFT JOIN contact ON contact.id = verdict.contact_id
                WHERE verdict.verdict IN ('new', 'changed', 'same')) AS contact {STANDING_JOINS}""",
        {"topic": topic_id},
    )[0]
    return {"subscribed": row.subscribed, "already": row.already, "left": row.left_before}
