"""Audiences, counts and the clearance."""

import re
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages.attachments import OwnName
from uvarovite.store.audiences.clearance import GATE_SQL, REASON_SQL, clearance_sql
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.naming import fold_file_name_sql, name_sql
from uvarovite.store.tables import Audience


def audiences(tx: Transaction) -> list[Audience]:
    """All audiences by name."""
    return list(tx.exec(select(Audience).order_by(col(Audience.name))).all())


def count_matched(tx: Transaction, criteria: SqlFragment) -> int:
    """How many contacts match."""
    sql = f"SELECT count(*) FROM contact WHERE deleted_at IS NULL AND {criteria.text}"
    return int(run_sql(tx, sql, criteria.parameters)[0][0])


def count_contacts_about(tx: Transaction) -> int:
    """How many contacts there are, as the database last took stock of it; 0 before it ever did."""
    rows = run_sql(
        tx, "SELECT CAST(greatest(reltuples, 0) AS bigint) AS n FROM pg_class WHERE oid = 'contact'::regclass"
    )
    return int(rows[0].n)


# So many contacts are looked at for an estimate: one in two thousand who match is still seen ten times.
SAMPLED = 20_000


def count_matched_about(tx: Transaction, criteria: SqlFragment) -> int:
    """About how many contacts match, scaled up from some pages of the table; the same pages each time."""
    total = max(1, count_contacts_about(tx))
    percent = min(100.0, 100 * SAMPLED / total)
    sql = f"""SELECT count(*) FILTER (WHERE {criteria.text}) AS matched, count(*) AS seen
        FROM contact TABLESAMPLE SYSTEM (:sampled_percent) REPEATABLE (8040) WHERE deleted_at IS NULL"""
    row = run_sql(tx, sql, {**criteria.parameters, "sampled_percent": percent})[0]
    matched, seen = int(row.matched), int(row.seen)
    return round(matched * total / max(1, seen))


def clearance_counts(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms) -> list[Row[Any]]:
    """(gate, reason, n, example): several rows for each gate and reason; gate is NULL for those who are cleared.

    Each row holds one person as an example: seven groups cost no more than one, which the names of three people would.
    """
    judged = clearance_sql(criteria, terms)
    sql = f"""WITH {judged.text}
        SELECT {GATE_SQL} AS gate, {REASON_SQL} AS reason, n, example FROM (
            SELECT held, count(*) AS n, min(contact_id) AS example FROM judged GROUP BY held, contact_id % 7) AS counted"""
    return list(run_sql(tx, sql, judged.parameters))


def names_of(tx: Transaction, ids: Sequence[int]) -> dict[int, str]:
    """What people are called: by name, else by address."""
    rows = run_sql(
        tx,
        f"SELECT id, {name_sql('contact')} AS name FROM contact WHERE id = ANY(:ids)",
        {"ids": list(ids)},
    )
    return {row.id: row.name for row in rows}


def judged_people(
    tx: Transaction,
    criteria: SqlFragment,
    terms: ClearanceTerms,
    *,
    gate: str | None,
    after_id: int = 0,
    limit: int,
) -> list[Row[Any]]:
    """People whom a gate holds (None: who are cleared), by id behind `after_id`: (id, name, address, reason, import_id, file).

    The file is that which the person came with.
    """
    judged = clearance_sql(criteria, terms)
    which = "held IS NULL" if gate is None else f"{GATE_SQL} = :gate"
    sql = f"""WITH {judged.text}
        SELECT contact.id, concat_ws(' ', contact.first_name, contact.last_name) AS name, contact.address,
            {REASON_SQL} AS reason, import_file.id AS import_id, import_file.filename AS file
        FROM judged JOIN contact ON contact.id = judged.contact_id
        LEFT JOIN import_file ON import_file.id = contact.import_id
        WHERE {which} AND contact.id > :after_id ORDER BY contact.id LIMIT :limit"""
    return list(run_sql(tx, sql, {**judged.parameters, "gate": gate, "after_id": after_id, "limit": limit}))


def count_cleared(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms) -> int:
    """How many are cleared."""
    judged = clearance_sql(criteria, terms)
    sql = f"WITH {judged.text} SELECT count(*) AS n FROM judged WHERE held IS NULL"
    return int(run_sql(tx, sql, judged.parameters)[0].n)


def judged_one(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms, contact_id: int) -> Row[Any] | None:
    """(gate, reason) of one contact, judged among all others as ever; None when it does not match."""
    judged = clearance_sql(criteria, terms)
    sql = f"WITH {judged.text} SELECT {GATE_SQL} AS gate, {REASON_SQL} AS reason FROM judged WHERE contact_id = :contact_id"
    rows = run_sql(tx, sql, {**judged.parameters, "contact_id": contact_id})
    return rows[0] if rows else None


def cleared_neighbour(
    tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms, *, from_id: int, step: int
) -> Row[Any] | None:
    """(id, place, total) of a cleared person: the one at `from_id` (step 0), behind or before it; wraps around.

    Beside it who is `behind` and `before` it, by id, up to `_NEAR` of each, nearest first.
    """
    judged = clearance_sql(criteria, terms)
    sql = f"""WITH {judged.text},
        placed AS (SELECT contact_id AS id, row_number() OVER (ORDER BY contact_id) AS place, count(*) OVER () AS total
            FROM judged WHERE held IS NULL),
        found AS (SELECT id, place, total FROM placed ORDER BY {_NEIGHBOUR[step]} LIMIT 1)
        SELECT found.id, found.place, found.total,
            ARRAY(SELECT placed.id FROM placed WHERE placed.place > found.place AND placed.place <= found.place + {_NEAR}
                ORDER BY placed.place) AS behind,
            ARRAY(SELECT placed.id FROM placed WHERE placed.place < found.place AND placed.place >= found.place - {_NEAR}
                ORDER BY placed.place DESC) AS before
        FROM found"""
    rows = run_sql(tx, sql, {**judged.parameters, "from_id": from_id})
    return rows[0] if rows else None


# So many steps are made without another look at everybody.
_NEAR = 50
# Which comes first: those on the wanted side of from_id, nearest first; then, around the end, the farthest other.
_NEIGHBOUR = {
    0: "(id >= :from_id) DESC, id",
    1: "(id > :from_id) DESC, id",
    -1: "(id < :from_id) DESC, id DESC",
}


# The language that a contact reads, without its region: as core.messages.document.reads.
_CODE = re.compile(r"[a-z]{2,8}")
_READS = "lower(split_part(replace(coalesce(contact.language, ''), '_', '-'), '-', 1))"


def blank_sql(key: str, *, standard: bool, among: Sequence[str], others: Sequence[str]) -> str:
    """A condition over `contact`: who has nothing in a field, among those who get words in these languages.

    Of the languages "" are the main words, for whoever reads none of the `others`.
    """
    blank = f"contact.{key} IS NULL" if standard else f"contact.own->>'{key}' IS NULL"
    return f"{blank} AND {reads_sql(among, others)}" if others else blank


def reads_sql(among: Sequence[str], others: Sequence[str]) -> str:
    """A condition over `contact`: who gets words in these languages, as in `blank_sql`.

    What is no code of a language is read by nobody, and never becomes a part of the condition.
    """
    named, all_others = (", ".join(f"'{one}'" for one in some if _CODE.fullmatch(one)) for some in (among, others))
    told = [f"{_READS} IN ({named})"] if named else []
    if "" in among:
        told.append(f"{_READS} NOT IN ({all_others})" if all_others else "TRUE")
    return f"({' OR '.join(told) or 'FALSE'})"


def lacks_file_sql(own: OwnName, names: Sequence[str], *, standard: bool, prefix: str) -> SqlFragment:
    """A condition over `contact`: none of some folded names is that of the person's file (core.messages.attachments)."""
    value = f"contact.{own.field}" if standard else f"(contact.own->>'{own.field}')"
    whole = f"CAST(:{prefix}before AS text) || {value} || CAST(:{prefix}behind AS text)"
    told = fold_file_name_sql(whole)
    return SqlFragment(
        text=f"NOT coalesce({told} = ANY(:{prefix}names), FALSE)",
        parameters={f"{prefix}before": own.before, f"{prefix}behind": own.behind, f"{prefix}names": list(names)},
    )


def narrowed(criteria: SqlFragment, conditions: Sequence[str]) -> SqlFragment:
    """Those among whom the criteria choose for whom one of some conditions over `contact` holds; nobody without any."""
    told = " OR ".join(f"({one})" for one in conditions) or "false"
    return SqlFragment(text=f"({criteria.text}) AND ({told})", parameters=criteria.parameters)


def blanks_among_cleared(
    tx: Transaction,
    criteria: SqlFragment,
    terms: ClearanceTerms,
    blanks: Sequence[str],
    parameters: Mapping[str, Any] | None = None,
) -> list[tuple[int, list[int]]]:
    """For each condition over `contact`: for how many cleared people it holds, and up to three of them, by id.

    `parameters` are what the conditions bind.
    """
    if not blanks:
        return []
    judged = clearance_sql(criteria, terms)
    asked = ", ".join(
        f"count(*) FILTER (WHERE {blank}) AS n{place}, "
        f"(array_agg(contact.id) FILTER (WHERE {blank}))[1:3] AS some{place}"
        for place, blank in enumerate(blanks)
    )
    sql = f"WITH {judged.text} SELECT {asked} FROM judged JOIN contact ON contact.id = contact_id WHERE held IS NULL"
    row = run_sql(tx, sql, {**judged.parameters, **(parameters or {})})[0]._mapping
    return [(row[f"n{place}"], row[f"some{place}"] or []) for place in range(len(blanks))]


def cleared_of_domains(
    tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms, domains: Sequence[str]
) -> dict[str, int]:
    """How many cleared people have their address at each of some domains."""
    conditions = [f"split_part(contact.address_folded, '@', 2) = :domain{place}" for place in range(len(domains))]
    parameters = {f"domain{place}": domain for place, domain in enumerate(domains)}
    found = blanks_among_cleared(tx, criteria, terms, conditions, parameters)
    return {domain: n for domain, (n, _) in zip(domains, found, strict=True)}


def cleared_of_zones(
    tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms, field: str, zones: Collection[str]
) -> dict[str, int]:
    """How many cleared people have each of some time zones in a field."""
    judged = clearance_sql(criteria, terms)
    sql = f"""WITH {judged.text}
        SELECT own->>:zone_field AS zone, count(*) AS n FROM judged JOIN contact ON contact.id = contact_id
        WHERE held IS NULL AND own->>:zone_field = ANY(:zone_names) GROUP BY 1"""
    rows = run_sql(tx, sql, {**judged.parameters, "zone_field": field, "zone_names": sorted(zones)})
    return {row.zone: row.n for row in rows}


def judge_for_release(tx: Transaction, criteria: SqlFragment, terms: ClearanceTerms) -> None:
    """Take the clearance into the temporary table `judged_now`, which lives as long as the transaction."""
    judged = clearance_sql(criteria, terms)
    change_sql(tx, "CREATE TEMP TABLE judged_now (contact_id bigint, gate text, reason text) ON COMMIT DROP")
    sql = f"INSERT INTO judged_now WITH {judged.text} SELECT contact_id, {GATE_SQL}, {REASON_SQL} FROM judged"
    change_sql(tx, sql, judged.parameters)
    change_sql(tx, "ANALYZE judged_now")


def counts_of_release(tx: Transaction) -> list[Row[Any]]:
    """(gate, reason, n) of `judged_now`."""
    return list(run_sql(tx, "SELECT gate, reason, count(*) AS n FROM judged_now GROUP BY 1, 2"))
