"""whose certificates a relay's may be signed by, besides those that the machine trusts"""

from alembic import op

revision = "0047"
down_revision = "0046"
branch_labels = None
depends_on = None

STATEMENTS = "ALTER TABLE relay ADD COLUMN authority text;"


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
