"""a delivery is of a run by its batch: that is looked up once for each"""

from alembic import op

revision = "0048"
down_revision = "0047"
branch_labels = None
depends_on = None

STATEMENTS = "ALTER TABLE delivery DROP CONSTRAINT delivery_run_id_fkey;"


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
