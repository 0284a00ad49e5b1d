"""who may release what comes from a sender"""

from alembic import op

revision = "0045"
down_revision = "0044"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE sender ADD COLUMN users bigint[] NOT NULL DEFAULT '{}';
ALTER TABLE sender ALTER COLUMN users DROP DEFAULT;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
