"""refused rows are counted as a spreadsheet counts them, beside the number of the record

Until now both were the same: the first record below the names of the columns was row 1. Files that were looked at and not
written yet are forgotten: their staged rows are of the old shape.
"""

from alembic import op

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE import_refusal ADD COLUMN record integer;
-- By way of numbers that nothing has, since rows are unique at each step.
UPDATE import_refusal SET record = row, row = -row - 1;
UPDATE import_refusal SET row = -row;
ALTER TABLE import_refusal ALTER COLUMN record SET NOT NULL;
-- What was told of a file is shown again as it was told, in the shape of today.
UPDATE import_file SET report = report || jsonb_build_object('meets', NULL, 'notes', '[]'::jsonb, 'refusals', '[]'::jsonb,
    'columns', (SELECT coalesce(jsonb_agg(one - 'why' - 'doubt' || jsonb_build_object('basis', one->'why', 'century', NULL,
            'doubts', '[]'::jsonb, 'open', '[]'::jsonb) ORDER BY place), '[]'::jsonb)
        FROM jsonb_array_elements(report->'columns') WITH ORDINALITY AS told(one, place)))
    WHERE report ? 'columns';
DO $$
DECLARE one record;
BEGIN
    FOR one IN SELECT id FROM import_file WHERE written_at IS NULL LOOP
        EXECUTE format('DROP TABLE IF EXISTS import_rows_%s', one.id);
    END LOOP;
END $$;
DELETE FROM import_piece USING import_file WHERE import_file.id = import_id AND written_at IS NULL;
DELETE FROM import_file WHERE written_at IS NULL AND source_id IS NULL;
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
