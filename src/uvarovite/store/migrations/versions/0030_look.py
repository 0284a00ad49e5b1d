"""how the organisation's letters look"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0030"
down_revision = "0029"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("organisation", sa.Column("look", postgresql.JSONB(none_as_null=True), nullable=True))
    op.add_column("organisation", sa.Column("look_revision", sa.Integer(), nullable=False, server_default="1"))
    op.alter_column("organisation", "look_revision", server_default=None)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
