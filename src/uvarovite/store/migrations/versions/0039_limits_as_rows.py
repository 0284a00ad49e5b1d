"""limits are rows, whatever they are about; attempts name their relay; a relay in trouble rests; what broke is not lost

What was counted against hourly limits goes on to count. Whoever ran on a connection that broke before the message can have
been taken goes back to the batch that is in hand.
"""

from alembic import op

revision = "0039"
down_revision = "0038"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE send_limit (scope text NOT NULL, seconds integer NOT NULL, most integer NOT NULL,
    PRIMARY KEY (scope, seconds));
CREATE TABLE send_open (lease_token text NOT NULL, scope text NOT NULL, n integer NOT NULL,
    PRIMARY KEY (lease_token, scope));
CREATE INDEX send_open_by_scope ON send_open (scope);
CREATE TABLE send_count (scope text NOT NULL, seconds integer NOT NULL, stretch bigint NOT NULL, part integer NOT NULL,
    n integer NOT NULL, PRIMARY KEY (scope, seconds, stretch, part));

INSERT INTO send_limit SELECT 'relay ' || id, 3600, hourly_limit FROM relay WHERE hourly_limit IS NOT NULL;
INSERT INTO send_limit SELECT 'run ' || id, 3600, (pace->>'hourly_limit')::int FROM run
    WHERE state IN ('going', 'paused') AND pace->>'hourly_limit' IS NOT NULL;
WITH told AS (
    SELECT 'relay ' || relay_id AS scope, * FROM send_permit UNION ALL SELECT 'run ' || run_id, * FROM send_permit),
    moved AS (INSERT INTO send_open SELECT lease_token, scope, sum(count) FROM told WHERE closed_at IS NULL GROUP BY 1, 2)
INSERT INTO send_count SELECT scope, seconds, floor(extract(epoch FROM closed_at) * 120 / seconds), 0, sum(count)
    FROM told, unnest(ARRAY[60, 3600, 86400]) AS seconds WHERE closed_at IS NOT NULL GROUP BY 1, 2, 3;
DROP TABLE send_permit;
ALTER TABLE relay DROP COLUMN hourly_limit;

ALTER TABLE relay ADD COLUMN trouble jsonb, ADD COLUMN rests integer NOT NULL DEFAULT 0,
    ADD COLUMN rests_until timestamptz;
ALTER TABLE relay ADD COLUMN messages_per_connection integer NOT NULL DEFAULT 500,
    ADD COLUMN revision integer NOT NULL DEFAULT 1;
ALTER TABLE relay ALTER COLUMN rests DROP DEFAULT, ALTER COLUMN messages_per_connection DROP DEFAULT,
    ALTER COLUMN revision DROP DEFAULT;
ALTER TABLE attempt ADD COLUMN relay_id bigint REFERENCES relay;
ALTER TABLE run DROP COLUMN trouble;
UPDATE attempt SET relay_id = run.relay_id FROM run WHERE run.id = attempt.run_id;
"""
STEPS = (
    "claimed held", "claimed sending", "claimed stopped", "claimed waiting", "deferred claimed", "deferred held",
    "deferred stopped", "sending accepted", "sending claimed", "sending deferred", "sending refused", "sending unknown",
    "waiting claimed", "waiting held", "waiting stopped",
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
