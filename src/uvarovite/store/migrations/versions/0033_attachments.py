"""files that go with letters; what relays say they take"""

import sqlalchemy as sa
from alembic import op

revision = "0033"
down_revision = "0032"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "attachment",
        sa.Column("id", sa.BigInteger(), sa.Identity(), primary_key=True),
        sa.Column("digest", sa.Text(), nullable=False, unique=True),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=False),
        sa.Column("created_by", sa.BigInteger(), sa.ForeignKey("user_account.id"), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_attachment_created_at", "attachment", ["created_at"])
    op.add_column("relay", sa.Column("largest_bytes", sa.BigInteger(), nullable=True))


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
