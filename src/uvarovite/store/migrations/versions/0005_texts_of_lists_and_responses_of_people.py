"""the texts in a list are folded record by record, and a response knows whose it is

Going back is not provided for: an older version would search through the new form of lists as if it were a text.
"""

import json
import unicodedata
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE response_event ADD COLUMN contact_id bigint;
UPDATE response_event SET contact_id = delivery.contact_id FROM delivery WHERE delivery.id = response_event.delivery_id;
ALTER TABLE response_event ALTER COLUMN contact_id SET NOT NULL;
CREATE INDEX response_event_by_person ON response_event (kind, at, contact_id) WHERE machine_rule IS NULL;
"""


def fold(text: str) -> str:
    """As texts were folded when this migration was written."""
    return unicodedata.normalize("NFC", unicodedata.normalize("NFD", text).casefold())


def folded_items(items: list[dict[str, Any]], texts: list[str]) -> list[dict[str, str]]:
    return [{key: fold(value) for key, value in item.items() if key in texts} for item in items]


def upgrade() -> None:
    op.execute(STATEMENTS)
    connection = op.get_bind()
    for key, parts in connection.execute(sa.text("SELECT key, parts FROM contact_field WHERE type = 'list'")).all():
        texts = [part["key"] for part in parts if part["type"] in ("text", "choice")]
        rows = connection.execute(
            sa.text('SELECT id, "values"->:key AS items FROM contact WHERE jsonb_typeof("values"->:key) = \'array\''),
            {"key": key},
        ).all()
        told = [
            {"id": row.id, "key": key, "folded": json.dumps(folded_items(row.items, texts))}
            for row in rows
            if any(folded_items(row.items, texts))
        ]
        if told:
            connection.execute(
                sa.text(
                    "UPDATE contact SET folded = folded || jsonb_build_object(CAST(:key AS text), CAST(:folded AS jsonb)) "
                    "WHERE id = :id"
                ),
                told,
            )


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
