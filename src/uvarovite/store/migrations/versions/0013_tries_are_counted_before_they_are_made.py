"""tries are counted before they are made, for all processes, and where somebody signed in from is known

Going back is not provided for: what the new tables hold has no place in the old one.
"""

from alembic import op

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None

STATEMENTS = """
DROP TABLE login_attempt;
CREATE UNLOGGED TABLE tally (key text COLLATE "C" PRIMARY KEY, since timestamptz NOT NULL, n integer NOT NULL);
CREATE TABLE known_origin (
    user_id bigint NOT NULL REFERENCES user_account ON DELETE CASCADE,
    origin text COLLATE "C" NOT NULL,
    at timestamptz NOT NULL,
    PRIMARY KEY (user_id, origin));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
