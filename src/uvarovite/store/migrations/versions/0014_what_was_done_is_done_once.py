"""a request that is repeated by its key is done once

Going back is not provided for: nothing is lost by dropping the table.
"""

from alembic import op

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE idempotency_key (
    user_id bigint NOT NULL REFERENCES user_account ON DELETE CASCADE,
    key text COLLATE "C" NOT NULL,
    fingerprint text NOT NULL,
    at timestamptz NOT NULL,
    status integer, kind text, answer text,
    PRIMARY KEY (user_id, key));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
