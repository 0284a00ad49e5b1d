"""advice on campaigns that somebody accepted"""

import sqlalchemy as sa
from alembic import op

revision = "0032"
down_revision = "0031"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "accepted_advice",
        sa.Column("campaign_id", sa.BigInteger(), sa.ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.Text(), primary_key=True),
        sa.Column("message", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
