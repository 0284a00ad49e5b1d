"""who a duplicate was merged into, and which address a message went to

Whoever is erased is erased with all the records that they had; and a message that an address has stays there when the
person moves to another.

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
ALTER TABLE sent_mail ADD COLUMN address_folded text COLLATE "C";
UPDATE sent_mail SET address_folded = delivery.address_folded FROM delivery
    WHERE delivery.run_id = sent_mail.run_id AND delivery.contact_id = sent_mail.contact_id
        AND delivery.state IN ('accepted', 'unknown') AND delivery.address_folded NOT LIKE 'erased %';
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
