"""forms in other languages too, and a message that welcomes who confirmed"""

from alembic import op

revision = "0058"
down_revision = "0057"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE sign_up_form
    ADD others jsonb NOT NULL DEFAULT '{"words": []}',
    ADD welcome_message_id bigint CONSTRAINT sign_up_form_welcome_message_id_fkey REFERENCES message ON DELETE SET NULL;
ALTER TABLE sign_up_form ALTER others DROP DEFAULT;
ALTER TABLE sign_up ADD language text NOT NULL DEFAULT '', ADD welcomed_at timestamptz;
UPDATE sign_up SET language = form.language FROM sign_up_form AS form WHERE form.id = form_id;
ALTER TABLE sign_up ALTER language DROP DEFAULT;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
