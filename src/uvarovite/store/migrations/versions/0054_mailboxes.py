"""mailboxes that mail is read from, and how far"""

from alembic import op

revision = "0054"
down_revision = "0053"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE inbound_mailbox (
    name text CONSTRAINT inbound_mailbox_pkey PRIMARY KEY, uid_validity bigint NOT NULL, last_uid bigint,
    looked_at timestamptz, trouble text);
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
