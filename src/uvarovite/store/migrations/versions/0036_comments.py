"""what colleagues say of the words of a message"""

import sqlalchemy as sa
from alembic import op

revision = "0036"
down_revision = "0035"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "message_comment",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("message_id", sa.BigInteger(), sa.ForeignKey("message.id"), nullable=False),
        sa.Column("language", sa.Text(), nullable=False),
        sa.Column("block_id", sa.Text(), nullable=False),
        sa.Column("quote", sa.Text(), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("done_by", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        sa.Column("done_at", sa.DateTime(timezone=True), nullable=True),
    )
    op.create_index("ix_message_comment_message_id", "message_comment", ["message_id"])


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
