"""the lines that a sender signs letters with"""

import sqlalchemy as sa
from alembic import op

revision = "0031"
down_revision = "0030"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.add_column("sender", sa.Column("signature", sa.Text(), nullable=False, server_default=""))
    op.alter_column("sender", "signature", server_default=None)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
