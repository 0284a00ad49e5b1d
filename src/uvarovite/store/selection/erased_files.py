"""Files that were uploaded for one person each, and are let go of with them; who is erased stands in `chosen`."""

from collections.abc import Sequence

from uvarovite.core.messages.attachments import OwnName
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.naming import fold_file_name_sql

# Where messages have attachments: in their versions, in what somebody has not saved, and in what that was begun from.
_WORDS = (("message_version", "content"), ("draft", "body->'content'"), ("draft", "base->'content'"))
_SETS = '$.attachments[*] ? (@.kind == "own")'


def _named(name: str) -> str:
    """Is a name one of :names, as it stands or without its ending?"""
    bare = rf"regexp_replace({name}, '\.[^.]*$', '')"
    return f"({fold_file_name_sql(name)} = ANY(:names) OR {fold_file_name_sql(bare)} = ANY(:names))"


def own_file_sources(tx: Transaction) -> list[str]:
    """The texts that say, in any words that are kept, whose file is whose."""
    names = (f"SELECT jsonb_path_query({words}, '{_SETS}')->>'name' AS name FROM {table}" for table, words in _WORDS)
    return [row.name for row in run_sql(tx, f"{' UNION '.join(names)} ORDER BY name")]


def values_of_the_erased(tx: Transaction, own: OwnName, *, standard: bool) -> list[str]:
    """What those who are erased have, or had when they were written to, in the field of a name, and nobody else has."""
    value = f"contact.{own.field}" if standard else f"(contact.own->>'{own.field}')"
    rows = run_sql(
        tx,
        f"""SELECT value FROM (
                SELECT {value} AS value FROM contact JOIN chosen ON chosen.contact_id = contact.id
                UNION SELECT record->>'{own.field}' FROM delivery JOIN chosen USING (contact_id)) AS theirs
            WHERE value <> '' AND NOT EXISTS (
                SELECT FROM contact WHERE {fold_file_name_sql(value)} = {fold_file_name_sql("theirs.value")} AND id NOT IN (SELECT contact_id FROM chosen))
            ORDER BY value""",
    )
    return [row.value for row in rows]


def forget_own_files(tx: Transaction, source: str, names: Sequence[str]) -> None:
    """Let go of the files with these folded names, in every set whose text is `source`, and of the names.

    Bytes that stand under another name as well stay: they are somebody else's too.
    """
    only_names = {"names": list(names)}
    asked = {"source": source, **only_names}
    is_theirs = _named("file->>'name'")
    mine = f"own->>'name' = :source AND {is_theirs}"
    taken = " UNION ".join(
        f"""SELECT file->>'file' AS digest FROM {table}, jsonb_path_query({words}, '{_SETS}') AS own,
            jsonb_path_query(own, '$.files[*]') AS file WHERE {mine}"""
        for table, words in _WORDS
    )
    digests = [row.digest for row in run_sql(tx, taken, asked)]
    for table, words in _WORDS:
        column = words.partition("->")[0]
        left = f"""jsonb_set({words}, '{{attachments}}', (
            SELECT jsonb_agg(CASE WHEN one->>'kind' = 'own' AND one->>'name' = :source THEN jsonb_set(one, '{{files}}', (
                    SELECT coalesce(jsonb_agg(file ORDER BY nth), '[]')
                        FROM jsonb_path_query(one, '$.files[*]') WITH ORDINALITY AS named(file, nth)
                        WHERE NOT {is_theirs})) ELSE one END ORDER BY place)
                FROM jsonb_path_query({words}, '$.attachments[*]') WITH ORDINALITY AS told(one, place)))"""
        whole = left if column == words else f"jsonb_set({column}, '{{content}}', {left})"
        change_sql(
            tx,
            f"""UPDATE {table} SET {column} = {whole} WHERE EXISTS (
                SELECT FROM jsonb_path_query({words}, '{_SETS}') AS own, jsonb_path_query(own, '$.files[*]') AS file
                    WHERE {mine})""",
            asked,
        )
    # What was uploaded and never saved in any words is known by its name alone.
    standing = " OR ".join(
        f"""EXISTS (SELECT FROM {table} WHERE jsonb_path_exists({words},
            '$.attachments[*] ? (@.file == $digest || @.files[*].file == $digest)', jsonb_build_object('digest', digest)))"""
        for table, words in _WORDS
    )
    change_sql(
        tx,
        f"DELETE FROM attachment WHERE (digest = ANY(:digests) OR {_named('name')}) AND NOT ({standing})",
        {"digests": digests, **only_names},
    )
    change_sql(tx, f"UPDATE attachment SET name = 'file.' || kind WHERE {_named('name')}", only_names)
    change_sql(
        tx,
        f"""UPDATE audit_entry SET facts = facts || '{{"name": "of an erased person"}}'
            WHERE action = 'attachment_kept' AND {_named("facts->>'name'")}""",
        only_names,
    )
