"""where links lead is kept as it was sent, so that a click makes nothing of the message

What was sent before has no rows here; its links are read from the message. Going back is not provided for.
"""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE run_link (
    run_id bigint NOT NULL REFERENCES run, number integer NOT NULL,
    block text NOT NULL, address text,
    PRIMARY KEY (run_id, number));
CREATE TABLE delivery_link (
    delivery_id bigint NOT NULL REFERENCES delivery, number integer NOT NULL,
    address text NOT NULL,
    PRIMARY KEY (delivery_id, number));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
