"""JSON columns hold forms that name their version, lists of texts are arrays, what is no choice has its own column"""

from alembic import op

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

TEXTS = (
    ("contact_field", "choices"),
    ("api_token", "scopes"),
    ("campaign", "lifted"),
    ("table_mail", "columns"),
    ("import_file", "headers"),
    ("live_source", "headers"),
    ("import_refusal", "cells"),
)
UNDER = (
    ("contact_field", "parts"),
    ("import_file", "columns"),
    ("live_source", "columns"),
    ("column_memory", "columns"),
    ("contact_view", "columns"),
)
STATEMENTS = """
ALTER TABLE change_set ADD COLUMN act text, ADD COLUMN facts jsonb, ADD COLUMN redefinition jsonb;
UPDATE change_set SET
    act = CASE WHEN detail->>'action' = 'delete' THEN 'deleted'
        WHEN detail->>'action' = 'erase' THEN 'erased'
        WHEN detail->>'action' = 'retype' AND detail->'before'->'type' = detail->'after'->'type'
            AND detail->'before'->'currency' = detail->'after'->'currency' THEN 'field_redefined'
        WHEN detail->>'action' = 'retype' THEN 'field_retyped'
        WHEN channel = 'import' AND what LIKE 'Imported _%' THEN 'imported'
        WHEN channel = 'merge' AND what LIKE 'Merged with _%' THEN 'merged'
        ELSE 'told' END,
    facts = CASE WHEN detail->>'action' = 'delete' THEN '{}'
        WHEN detail->>'action' = 'erase' THEN jsonb_build_object('people', contacts)
        WHEN detail->>'action' = 'retype' AND detail->'before'->'type' = detail->'after'->'type' THEN jsonb_build_object(
            'field', detail->'before'->'label', 'before', coalesce(detail->'before'->>'currency', 'no currency'),
            'after', coalesce(detail->'after'->>'currency', 'no currency'))
        WHEN detail->>'action' = 'retype' THEN jsonb_build_object('field', detail->'before'->'label',
            'before', detail->'before'->'type', 'after', detail->'after'->'type')
        WHEN channel = 'import' AND what LIKE 'Imported _%' THEN jsonb_build_object('file', substr(what, 10))
        WHEN channel = 'merge' AND what LIKE 'Merged with _%' THEN jsonb_build_object('contacts', substr(what, 13))
        ELSE jsonb_build_object('words', what) END,
    redefinition = CASE WHEN detail->>'action' = 'retype'
        THEN jsonb_build_object('before', detail->'before', 'after', detail->'after') END;
ALTER TABLE change_set ALTER COLUMN act SET NOT NULL, ALTER COLUMN facts SET NOT NULL, DROP COLUMN what, DROP COLUMN detail;

CREATE FUNCTION pg_temp.texts(list jsonb) RETURNS text[] LANGUAGE sql IMMUTABLE AS
    'SELECT coalesce(array_agg(one ORDER BY place), ''{}'')
        FROM jsonb_array_elements_text(list) WITH ORDINALITY AS told(one, place)';
ALTER TABLE relay ALTER COLUMN retry_delays_seconds
    TYPE integer[] USING CAST(pg_temp.texts(retry_delays_seconds) AS integer[]);

ALTER TABLE import_refusal ADD COLUMN faults jsonb;
UPDATE import_refusal SET faults = jsonb_build_object('faults', jsonb_build_array(
    jsonb_build_object('code', 'told', 'facts', jsonb_build_object('words', message))));
ALTER TABLE import_refusal ALTER COLUMN faults SET NOT NULL, DROP COLUMN message;

ALTER TABLE import_file ADD COLUMN size bigint, ADD COLUMN fault text;
ALTER TABLE import_file RENAME COLUMN options TO choices;
UPDATE import_file SET size = CAST(choices->>'size' AS bigint), fault = choices->>'fault',
    choices = jsonb_strip_nulls(choices - 'size' - 'fault');
ALTER TABLE live_source RENAME COLUMN options TO choices;
UPDATE live_source SET choices = jsonb_strip_nulls(choices);
ALTER TABLE column_memory ADD COLUMN key text;
UPDATE column_memory SET key = coalesce(options->>'key', 'contact_no');
ALTER TABLE column_memory ALTER COLUMN key SET NOT NULL, DROP COLUMN options;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)
    for table, column in TEXTS:
        op.execute(f"ALTER TABLE {table} ALTER COLUMN {column} TYPE text[] USING pg_temp.texts({column})")
    for table, column in UNDER:
        op.execute(f"UPDATE {table} SET {column} = jsonb_build_object('{column}', {column})")


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
