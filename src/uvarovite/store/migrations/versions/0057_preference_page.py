"""what the preference page offers: fields to be corrected, and topics that only those see who get them"""

from alembic import op

revision = "0057"
down_revision = "0056"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE organisation
    ADD page_fields text[] NOT NULL DEFAULT '{}',
    ADD inner_topics bigint[] NOT NULL DEFAULT '{}';
ALTER TABLE organisation ALTER page_fields DROP DEFAULT, ALTER inner_topics DROP DEFAULT;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
