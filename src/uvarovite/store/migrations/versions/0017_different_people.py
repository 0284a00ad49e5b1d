"""who was said to be different people, so that they are not offered as one again

Going back is not provided for: what the new table holds has no place in the old ones.
"""

from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE different_people (
    one_id bigint NOT NULL, other_id bigint NOT NULL,
    said_by bigint REFERENCES user_account ON DELETE SET NULL, at timestamptz NOT NULL,
    PRIMARY KEY (one_id, other_id),
    CONSTRAINT different_people_in_order CHECK (one_id < other_id));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
