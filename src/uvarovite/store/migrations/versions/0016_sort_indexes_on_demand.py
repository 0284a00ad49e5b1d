"""indexes for sorting come when a column is sorted by: each of them is kept up row by row by every import

Going back is not provided for: what the new table holds has no place in the old ones.
"""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE sorted_column (key text PRIMARY KEY, used_at timestamptz NOT NULL);
DROP INDEX IF EXISTS contact_by_language;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)
    # Those that are there stay, and go when nobody sorts by them; each counts as used now.
    op.get_bind().execute(sa.text("INSERT INTO sorted_column (key, used_at) SELECT key, now() FROM contact_field"))


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
