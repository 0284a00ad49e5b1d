"""the values of the organisation's own fields are called so: no column has a reserved word for a name"""

from alembic import op

revision = "0025"
down_revision = "0024"
branch_labels = None
depends_on = None

# The rows of files that were looked at and are not written yet.
STAGED = """
DO $$ DECLARE one record; BEGIN
    FOR one IN SELECT table_name FROM information_schema.columns
        WHERE table_schema = current_schema() AND column_name = 'values' AND table_name LIKE 'import_rows_%' LOOP
        EXECUTE format('ALTER TABLE %I RENAME COLUMN "values" TO own', one.table_name);
    END LOOP;
END $$
"""


def upgrade() -> None:
    """Apply."""
    op.execute('ALTER TABLE contact RENAME COLUMN "values" TO own')
    op.execute(STAGED)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
