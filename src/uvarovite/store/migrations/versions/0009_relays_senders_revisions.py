"""what carries mail is a relay, who it comes from is a sender, and what counts up with each change is a revision

The tables said sender and identity for the first two, and looks of campaigns are previews. Only names change.
"""

from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None

_TABLES = (("sender", "relay"), ("identity", "sender"), ("campaign_look", "campaign_preview"))
_COLUMNS = (
    ("campaign", "sender_id", "relay_id"),
    ("campaign", "identity_id", "sender_id"),
    ("topic", "identity_id", "sender_id"),
    ("run", "sender_id", "relay_id"),
    ("send_permit", "sender_id", "relay_id"),
    ("campaign", "edition", "revision"),
    ("audience", "edition", "revision"),
    ("topic", "edition", "revision"),
    ("live_source", "edition", "revision"),
    ("contact_view", "edition", "revision"),
    ("campaign_preview", "edition", "revision"),
)
_INDEXES = (("send_permit_by_sender", "send_permit_by_relay"),)
_CONSTRAINTS = (("relay", "sender_security", "relay_security"),)


def upgrade() -> None:
    for before, after in _TABLES:
        op.execute(f"ALTER TABLE {before} RENAME TO {after}")
    for table, before, after in _COLUMNS:
        op.execute(f"ALTER TABLE {table} RENAME COLUMN {before} TO {after}")
    for before, after in _INDEXES:
        op.execute(f"ALTER INDEX {before} RENAME TO {after}")
    for table, before, after in _CONSTRAINTS:
        op.execute(f"ALTER TABLE {table} RENAME CONSTRAINT {before} TO {after}")
    # Keys and sequences are called after their tables; what is made anew must find the same names.
    for old, new in _TABLES:
        op.execute(f"ALTER INDEX {old}_pkey RENAME TO {new}_pkey")
        if old != "campaign_look":
            op.execute(f"ALTER SEQUENCE {old}_id_seq RENAME TO {new}_id_seq")
    op.execute("ALTER TABLE sender RENAME CONSTRAINT identity_address_key TO sender_address_key_now")
    op.execute("ALTER TABLE relay RENAME CONSTRAINT sender_name_key TO relay_name_key")
    op.execute("ALTER TABLE sender RENAME CONSTRAINT sender_address_key_now TO sender_address_key")


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
