"""the legal basis of consent and the channel of what happened are called so

What consent events hold in JSON stays as it was written: it is evidence, and both names are read.
"""

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE import_file RENAME COLUMN ground TO legal_basis;
ALTER TABLE live_source RENAME COLUMN ground TO legal_basis;
ALTER TABLE consent_event RENAME COLUMN way TO channel;
ALTER TABLE change_set RENAME COLUMN way TO channel;
ALTER TABLE source_pull RENAME COLUMN way TO channel;
UPDATE import_file SET options = (options - 'way') || jsonb_build_object('channel', options->'way') WHERE options ? 'way';
"""

# As in 0012; a function's text does not follow a column's name.
KEEP_EVENTS = """
CREATE OR REPLACE FUNCTION ledger_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND NEW.evidence = '{}'
        AND (NEW.id, NEW.contact_id, NEW.topic_id, NEW.kind, NEW.at, NEW.channel)
            = (OLD.id, OLD.contact_id, OLD.topic_id, OLD.kind, OLD.at, OLD.channel)
        AND NEW.until IS NOT DISTINCT FROM OLD.until AND NEW.recorded_by IS NOT DISTINCT FROM OLD.recorded_by
        AND EXISTS (SELECT FROM contact WHERE id = OLD.contact_id AND erased_at IS NOT NULL) THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)
    op.execute(KEEP_EVENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
