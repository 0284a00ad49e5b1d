"""how many of a run's people live by which clock"""

from alembic import op

revision = "0050"
down_revision = "0049"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.execute("ALTER TABLE run ADD COLUMN readers jsonb")


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
