"""people who are added to an audience by hand, or left out of it

Going back is not provided for: what the new table holds has no place in the old ones.
"""

from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE audience_member (
    audience_id bigint NOT NULL REFERENCES audience ON DELETE CASCADE, contact_id bigint NOT NULL, kind text NOT NULL,
    change_set_id bigint REFERENCES change_set, added_by bigint REFERENCES user_account, at timestamptz NOT NULL,
    PRIMARY KEY (audience_id, contact_id),
    CONSTRAINT audience_member_kind CHECK (kind IN ('added', 'left_out')));
CREATE INDEX ix_audience_member_contact_id ON audience_member (contact_id);
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
