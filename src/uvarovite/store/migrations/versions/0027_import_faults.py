"""why a file or a live source was not imported is kept as a code and its facts"""

from alembic import op

revision = "0027"
down_revision = "0026"
branch_labels = None
depends_on = None


def upgrade() -> None:
    """Apply."""
    for table in ("import_file", "source_pull"):
        op.execute(
            f"""ALTER TABLE {table} ALTER COLUMN fault TYPE jsonb USING CASE WHEN fault IS NOT NULL
                THEN jsonb_build_object('code', 'told', 'facts', jsonb_build_object('words', fault)) END"""
        )
    op.execute(
        """UPDATE change_set SET act = 'merged_erased', facts = '{}'
            WHERE facts = '{"contacts": "somebody who was erased"}'"""
    )


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
