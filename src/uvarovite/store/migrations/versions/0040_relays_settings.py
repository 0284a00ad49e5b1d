"""a relay is told what we are called and where undeliverable mail comes back to"""

from alembic import op

revision = "0040"
down_revision = "0039"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    op.execute("ALTER TABLE relay ADD COLUMN hello_name text, ADD COLUMN envelope_domain text")


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
