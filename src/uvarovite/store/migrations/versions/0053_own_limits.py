"""how often people want mail at most, by their own word"""

from alembic import op

revision = "0053"
down_revision = "0052"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE own_limit (
    contact_id bigint CONSTRAINT own_limit_pkey PRIMARY KEY CONSTRAINT own_limit_contact_id_fkey REFERENCES contact,
    at_most text NOT NULL CONSTRAINT own_limit_at_most CHECK (at_most IN ('week', 'month')),
    since timestamptz NOT NULL);
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
