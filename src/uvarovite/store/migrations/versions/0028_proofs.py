"""sheets of proofs, and which letters were read; messages can be put away and begun from"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0028"
down_revision = "0027"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    instant = sa.DateTime(timezone=True)
    op.create_table(
        "proof_sheet",
        sa.Column("campaign_id", sa.BigInteger(), sa.ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("made_of", sa.Text(), nullable=False),
        sa.Column("sheet", postgresql.JSONB(none_as_null=True), nullable=True),
        sa.Column("made_at", instant, nullable=True),
        sa.Column("making", sa.Text(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("total", sa.Integer(), nullable=False),
        sa.Column("heard_at", instant, nullable=True),
    )
    op.create_table(
        "proof_seen",
        sa.Column("campaign_id", sa.BigInteger(), sa.ForeignKey("campaign.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("contact_id", sa.BigInteger(), sa.ForeignKey("contact.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.Text(), primary_key=True),
        sa.Column("user_id", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        sa.Column("at", instant, nullable=False),
    )
    op.add_column("message", sa.Column("put_away_at", instant, nullable=True))
    op.add_column("message", sa.Column("is_starter", sa.Boolean(), nullable=False, server_default=sa.false()))
    op.alter_column("message", "is_starter", server_default=None)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
