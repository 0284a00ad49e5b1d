"""who a duplicate was merged into: whoever is erased is erased with all the records that they had

Going back is not provided for: what the new column holds has no place in the old tables.
"""

from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE contact ADD COLUMN merged_into bigint REFERENCES contact;
CREATE INDEX contact_merged_into ON contact (merged_into) WHERE merged_into IS NOT NULL;
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
