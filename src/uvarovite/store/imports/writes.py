"""Writing an import that was compared: contacts, what was changed in them, tags, and the stated consent."""

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from uvarovite.core.consent import ConsentEventKind, ConsentEvidence
from uvarovite.store.consent.closings import OPEN_TO_OTHERS, STANDING_JOINS
from uvarovite.store.consent.ledger import append_events
from uvarovite.store.contacts.records import STANDARD, write_search
from uvarovite.store.contacts.tags import ensure_tags
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.imports.comparing import Rules, outcome_sql, rule_parameters, with_lists
from uvarovite.store.imports.staging import staged


def write_rows(tx: Transaction, import_id: int, rules: Rules, *, change_set_id: int, now: datetime) -> None:
    """Write the resolved rows. Afterwards the temporary table `brought` says who each usable row became."""
    table = staged(import_id)
    outcome = outcome_sql(rules, table)
    parameters = {**rule_parameters(tx, rules), "now": now, "set": change_set_id}
    standard = " UNION ALL ".join(
        f"""SELECT '{key}', to_jsonb(contact.{key}), to_jsonb({outcome[key]})
            WHERE ({outcome[key]}) IS DISTINCT FROM contact.{key}"""
        for key in STANDARD
    )
    change_sql(
        tx,
        with_lists(
            f"""INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, contact.id, (
                SELECT jsonb_object_agg(one.key, jsonb_build_object('before', one.before, 'after', one.after)) FROM (
                    SELECT key, contact.own->key AS before, value AS after FROM jsonb_each({outcome["own"]})
                    WHERE value IS DISTINCT FROM contact.own->key
                    UNION ALL {standard}) AS one(key, before, after))
            FROM verdict JOIN {table} AS staged ON staged.row = verdict.row
            JOIN contact ON contact.id = verdict.contact_id WHERE verdict.verdict = 'changed'"""
        ),
        parameters,
    )
    assigned = ", ".join(f"{column} = {value}" for column, value in outcome.items())
    change_sql(
        tx,
        with_lists(
            f"""UPDATE contact SET {assigned}, updated_at = :now FROM {table} AS staged, verdict
            WHERE staged.row = verdict.row AND verdict.verdict = 'changed' AND contact.id = verdict.contact_id"""
        ),
        parameters,
    )
    write_search(tx, "SELECT contact_id FROM verdict WHERE verdict = 'changed'", {})
    change_sql(
        tx,
        """CREATE TEMP TABLE brought ON COMMIT DROP AS
            SELECT row, coalesce(contact_id, nextval(CAST(:sequence AS regclass))) AS contact_id, verdict
            FROM verdict WHERE verdict IN ('new', 'changed', 'same')""",
        # Asked for once, and not for each row.
        {"sequence": run_sql(tx, "SELECT pg_get_serial_sequence('contact', 'id')")[0][0]},
    )
    change_sql(tx, "ANALYZE brought")
    change_sql(
        tx,
        f"""INSERT INTO contact (id, contact_no, address, address_folded, first_name, last_name, language, own,
                folded, import_id, created_at, updated_at)
            OVERRIDING SYSTEM VALUE
            SELECT brought.contact_id, contact_no, address, address_folded, first_name, last_name,
                language, CAST(own AS jsonb), CAST(folded AS jsonb), :import_id, :now, :now
            FROM {table} AS staged JOIN brought ON brought.row = staged.row WHERE brought.verdict = 'new'""",
        {"import_id": import_id, "now": now},
    )
    change_sql(
        tx,
        f"""INSERT INTO contact_search (contact_id, text) SELECT brought.contact_id, search
            FROM {table} AS staged JOIN brought ON brought.row = staged.row WHERE brought.verdict = 'new'""",
    )


def write_tags(tx: Transaction, import_id: int, everybody: Sequence[str], *, change_set_id: int) -> None:
    """Put the rows' own tags, and `everybody`'s, on the people of the file; for those who were there, as a change."""
    own = [row.name for row in run_sql(tx, f"SELECT DISTINCT unnest(tags) AS name FROM {staged(import_id)}")]
    if not own and not everybody:
        return
    ids = ensure_tags(tx, [*own, *everybody])
    change_sql(
        tx,
        f"""WITH wanted AS (
                SELECT brought.contact_id, told.id, told.name FROM {staged(import_id)} AS staged
                JOIN brought ON brought.row = staged.row
                CROSS JOIN unnest(coalesce(staged.tags, '{{}}') || CAST(:everybody AS text[])) AS one(name)
                JOIN unnest(CAST(:names AS text[]), CAST(:ids AS bigint[])) AS told(name, id)
                    ON told.name = one.name),
            put AS (
                INSERT INTO contact_tag (contact_id, tag_id) SELECT DISTINCT contact_id, id FROM wanted
                ON CONFLICT DO NOTHING RETURNING contact_id, tag_id)
            INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, put.contact_id, jsonb_build_object('tags', jsonb_build_object('before', NULL, 'after',
                jsonb_agg(tag.name ORDER BY tag.folded)))
            FROM put JOIN tag ON tag.id = put.tag_id JOIN brought ON brought.contact_id = put.contact_id
            WHERE brought.verdict <> 'new' GROUP BY put.contact_id
            ON CONFLICT (change_set_id, contact_id) DO UPDATE SET changes = contact_change.changes || excluded.changes""",
        {"everybody": list(everybody), "names": list(ids), "ids": list(ids.values()), "set": change_set_id},
    )


def append_consent(
    tx: Transaction,
    import_id: int,
    *,
    topic_id: int,
    only_topic: str | None,
    change_set_id: int,
    at: datetime,
    evidence: ConsentEvidence,
    recorded_by: int | None,
    all_new: bool,
) -> int:
    """Record the stated consent of the file's people, where the ledger lets an import speak for them; how many.

    `all_new`: everybody of the file is new, and this is the first that is stated of them. With `only_topic` only of the
    rows that name this topic's key themselves. The row's number is part of the evidence. Those who were there stand in
    the change set, as whoever got anything from the file does.
    """
    named = ""
    parameters: dict[str, Any] = {}
    if only_topic is not None:
        named = f"JOIN {staged(import_id)} AS staged ON staged.row = brought.row AND :key = ANY(staged.topics)"
        parameters["key"] = only_topic
    people = f"""FROM brought {named}
        JOIN contact ON contact.id = brought.contact_id {STANDING_JOINS} WHERE {OPEN_TO_OTHERS}"""
    change_sql(
        tx,
        f"""INSERT INTO contact_change (change_set_id, contact_id, changes)
            SELECT :set, brought.contact_id, '{{}}' {people} AND brought.verdict <> 'new'
            ON CONFLICT DO NOTHING""",
        {**parameters, "topic": topic_id, "set": change_set_id},
    )
    return append_events(
        tx,
        f"SELECT brought.contact_id, jsonb_build_object('row', brought.row) {people}",
        {**parameters, "topic": topic_id},
        topic_id=topic_id,
        kind=ConsentEventKind.IMPORTED,
        at=at,
        channel="import",
        evidence=evidence,
        recorded_by=recorded_by,
        own_evidence=True,
        never_asked=all_new,
    )


def topics_named(tx: Transaction, import_id: int) -> dict[str, int]:
    """How many usable rows name each topic's key."""
    rows = run_sql(
        tx,
        f"""SELECT key, count(*) AS n FROM {staged(import_id)} AS staged
            JOIN verdict ON verdict.row = staged.row AND verdict.verdict IN ('new', 'changed', 'same')
            CROSS JOIN unnest(staged.topics) AS key GROUP BY 1 ORDER BY 1""",
    )
    return {row.key: row.n for row in rows}
