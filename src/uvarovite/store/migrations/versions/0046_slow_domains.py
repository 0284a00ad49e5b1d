"""domains that told a relay to slow down"""

from alembic import op

revision = "0046"
down_revision = "0045"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE slow_domain (
    relay_id bigint NOT NULL REFERENCES relay (id), domain text NOT NULL, times integer NOT NULL, until timestamptz NOT NULL,
    CONSTRAINT slow_domain_pkey PRIMARY KEY (relay_id, domain));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
