"""audiences whose people are those of one moment

Going back is not provided for: what the new table holds has no place in the old ones.
"""

from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE audience ADD COLUMN frozen_at timestamptz;
CREATE TABLE audience_snapshot (
    audience_id bigint NOT NULL REFERENCES audience ON DELETE CASCADE, contact_id bigint NOT NULL,
    PRIMARY KEY (audience_id, contact_id));
CREATE INDEX ix_audience_snapshot_contact_id ON audience_snapshot (contact_id);
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
