"""why a run does not get on with its relay is kept as a code and its facts"""

from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.execute(
        """ALTER TABLE run ALTER COLUMN trouble TYPE jsonb USING
           CASE WHEN trouble IS NOT NULL
           THEN jsonb_build_object('code', 'told', 'facts', jsonb_build_object('words', trouble)) END"""
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
