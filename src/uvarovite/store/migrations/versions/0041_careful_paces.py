"""a run may begin with a slice and brake by itself; a domain's limit puts people off without an attempt; pauses and decisions are kept"""

from alembic import op

revision = "0041"
down_revision = "0040"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE run ADD COLUMN slice_batches integer, ADD COLUMN slice_until timestamptz, ADD COLUMN brake jsonb,
    ADD COLUMN brake_after bigint NOT NULL DEFAULT 0, ADD COLUMN released_pace jsonb,
    ADD COLUMN again_of bigint REFERENCES run, ADD COLUMN unknown_decided integer NOT NULL DEFAULT 0;
ALTER TABLE run ALTER COLUMN brake_after DROP DEFAULT, ALTER COLUMN unknown_decided DROP DEFAULT;
ALTER TABLE delivery ADD COLUMN decided text, ADD COLUMN decided_at timestamptz;
ALTER TABLE delivery ADD CONSTRAINT delivery_decided CHECK (decided IN ('left', 'again'));
ALTER TABLE send_limit ADD COLUMN booked_from timestamptz, ADD COLUMN booked integer NOT NULL DEFAULT 0;
ALTER TABLE send_limit ALTER COLUMN booked DROP DEFAULT;
CREATE TABLE run_pause (run_id bigint NOT NULL REFERENCES run, began_at timestamptz NOT NULL, ended_at timestamptz,
    PRIMARY KEY (run_id, began_at));
INSERT INTO run_pause SELECT id, paused_at, NULL FROM run WHERE paused_at IS NOT NULL AND state = 'paused';
"""
STEPS = (
    "claimed deferred", "claimed held", "claimed sending", "claimed stopped", "claimed waiting", "deferred claimed",
    "deferred held", "deferred stopped", "sending accepted", "sending claimed", "sending deferred", "sending refused",
    "sending unknown", "waiting claimed", "waiting held", "waiting stopped",
)  # fmt: skip


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)
    allowed = ", ".join(f"'{step}'" for step in STEPS)
    op.execute("DROP TRIGGER delivery_step ON delivery")
    op.execute(
        f"""CREATE TRIGGER delivery_step BEFORE UPDATE OF state ON delivery FOR EACH ROW
            WHEN (OLD.state <> NEW.state AND OLD.state || ' ' || NEW.state NOT IN ({allowed}))
            EXECUTE FUNCTION refuse_step()"""
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
