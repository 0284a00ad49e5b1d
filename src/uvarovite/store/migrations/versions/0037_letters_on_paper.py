"""letters on paper, and who wants no post"""

from datetime import datetime

import sqlalchemy as sa
from alembic import op

revision = "0037"
down_revision = "0036"
branch_labels = None
depends_on = None


def _instant(name: str, *, nullable: bool = True) -> sa.Column[datetime]:
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable)


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "printing",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("campaign_id", sa.BigInteger(), sa.ForeignKey("campaign.id", ondelete="CASCADE"), nullable=False),
        sa.Column("message_version_id", sa.BigInteger(), sa.ForeignKey("message_version.id"), nullable=False),
        sa.Column("paper", sa.Text(), nullable=False),
        sa.Column("letters", sa.Integer(), nullable=False),
        sa.Column("pages", sa.Integer(), nullable=False),
        sa.Column("done", sa.Integer(), nullable=False),
        sa.Column("fault", sa.Text(), nullable=False),
        sa.Column("begun_by", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        _instant("begun_at", nullable=False),
        _instant("heard_at", nullable=False),
        _instant("made_at"),
        _instant("printed_at"),
        sa.Column("printed_by", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        _instant("dropped_at"),
        sa.CheckConstraint("paper IN ('din', 'us')", name="printing_paper"),
    )
    op.create_index("printing_by_campaign", "printing", ["campaign_id"])
    op.create_index(
        "printing_open",
        "printing",
        ["campaign_id"],
        unique=True,
        postgresql_where=sa.text("printed_at IS NULL AND dropped_at IS NULL"),
    )
    op.create_table(
        "printing_file",
        sa.Column("printing_id", sa.BigInteger(), sa.ForeignKey("printing.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("pdf", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "printed_letter",
        sa.Column("printing_id", sa.BigInteger(), sa.ForeignKey("printing.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("contact_id", sa.BigInteger(), primary_key=True, autoincrement=False),
        sa.Column("place", sa.Integer(), nullable=False),
        sa.Column("page", sa.Integer(), nullable=False),
        sa.Column("pages", sa.Integer(), nullable=False),
    )
    op.create_index("printed_letter_by_contact", "printed_letter", ["contact_id"])
    op.create_table(
        "post_refusal",
        sa.Column("contact_id", sa.BigInteger(), sa.ForeignKey("contact.id"), primary_key=True),
        _instant("at", nullable=False),
        sa.Column("wording", sa.Text(), nullable=False),
        sa.Column("recorded_by", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
