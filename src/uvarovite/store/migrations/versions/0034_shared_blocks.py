"""messages whose blocks stand in other messages"""

import sqlalchemy as sa
from alembic import op

revision = "0034"
down_revision = "0033"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("message", sa.Column("is_shared", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column("message", "is_shared", server_default=None)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
