"""the ledger lets go of the evidence of somebody who was erased, and of nothing else

The wording of a telephone call and the address of a computer are words about a person. An entry keeps what happened and
when; only its evidence can be emptied, and only when the contact is erased.
"""

from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE FUNCTION ledger_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND NEW.evidence = '{}'
        AND (NEW.id, NEW.contact_id, NEW.topic_id, NEW.kind, NEW.at, NEW.way)
            = (OLD.id, OLD.contact_id, OLD.topic_id, OLD.kind, OLD.at, OLD.way)
        AND NEW.until IS NOT DISTINCT FROM OLD.until AND NEW.recorded_by IS NOT DISTINCT FROM OLD.recorded_by
        AND EXISTS (SELECT FROM contact WHERE id = OLD.contact_id AND erased_at IS NOT NULL) THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
DROP TRIGGER consent_event_append_only ON consent_event;
CREATE TRIGGER consent_event_append_only BEFORE UPDATE OR DELETE ON consent_event
    FOR EACH ROW EXECUTE FUNCTION ledger_is_append_only();
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
