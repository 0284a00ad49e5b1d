"""first schema"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import postgresql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

# The ledger and the words of a version are evidence: the database itself refuses to change them.
APPEND_ONLY = """
CREATE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
CREATE TRIGGER consent_event_append_only BEFORE UPDATE OR DELETE ON consent_event
    FOR EACH ROW EXECUTE FUNCTION refuse_change();
CREATE TRIGGER message_version_append_only BEFORE UPDATE OR DELETE ON message_version
    FOR EACH ROW EXECUTE FUNCTION refuse_change();
"""


def upgrade() -> None:
    op.create_table(
        "contact_field",
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("label", sa.Text(), nullable=False),
        sa.Column("type", sa.Text(), nullable=False),
        sa.Column("currency", sa.Text(), nullable=True),
        sa.Column("choices", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.CheckConstraint(
            "type IN ('text', 'number', 'money', 'date', 'yes_no', 'choice')", name="contact_field_type"
        ),
        sa.PrimaryKeyConstraint("key"),
    )
    op.create_table(
        "identity",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.Column("reply_to", sa.Text(), nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("address"),
    )
    op.create_table(
        "login_attempt",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(op.f("ix_login_attempt_key"), "login_attempt", ["key"], unique=False)
    op.create_table(
        "message",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "organisation",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("postal_address", sa.Text(), nullable=False),
        sa.Column("locale", sa.Text(), nullable=False),
        sa.Column("time_zone", sa.Text(), nullable=False),
        sa.Column("list_domain", sa.Text(), nullable=False),
        sa.CheckConstraint("id = 1", name="organisation_is_one"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "sender",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("host", sa.Text(), nullable=False),
        sa.Column("port", sa.Integer(), nullable=False),
        sa.Column("security", sa.Text(), nullable=False),
        sa.Column("username", sa.Text(), nullable=True),
        sa.Column("sealed_password", sa.Text(), nullable=True),
        sa.Column("hourly_limit", sa.Integer(), nullable=True),
        sa.Column("connections", sa.Integer(), nullable=False),
        sa.Column("timeout_seconds", sa.Integer(), nullable=False),
        sa.Column("retry_delays_seconds", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.CheckConstraint("security IN ('none', 'starttls', 'tls')", name="sender_security"),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "suppression",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("address_folded", sa.Text(), nullable=False),
        sa.Column("reason", sa.Text(), nullable=False),
        sa.Column("evidence", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("lifted_at", sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("reason IN ('left_all', 'hard_bounce', 'complaint', 'by_hand')", name="suppression_reason"),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(
        "suppression_in_force",
        "suppression",
        ["address_folded"],
        unique=True,
        postgresql_where=sa.text("lifted_at IS NULL"),
    )
    op.create_table(
        "topic",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("key", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("description", sa.Text(), nullable=False),
        sa.Column("position", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("key"),
    )
    op.create_table(
        "user_account",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("email", sa.Text(), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("password_hash", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("email"),
    )
    op.create_table(
        "audience",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("criteria", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("edition", sa.Integer(), nullable=False),
        sa.Column("updated_by", sa.BigInteger(), nullable=True),
        sa.Column("updated_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["updated_by"],
            ["user_account.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "import_file",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("filename", sa.Text(), nullable=False),
        sa.Column("content", sa.LargeBinary(), nullable=True),
        sa.Column("encoding", sa.Text(), nullable=False),
        sa.Column("delimiter", sa.Text(), nullable=False),
        sa.Column("headers", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("columns", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("topic_id", sa.BigInteger(), nullable=True),
        sa.Column("ground", sa.Text(), nullable=True),
        sa.Column("report", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=True),
        sa.Column("created_by", sa.BigInteger(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("written_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["created_by"],
            ["user_account.id"],
        ),
        sa.ForeignKeyConstraint(
            ["topic_id"],
            ["topic.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "login_link",
        sa.Column("token_hash", sa.Text(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("used_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["user_id"],
            ["user_account.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    op.create_table(
        "message_version",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("message_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("content", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("created_by", sa.BigInteger(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["created_by"],
            ["user_account.id"],
        ),
        sa.ForeignKeyConstraint(
            ["message_id"],
            ["message.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("message_id", "number", name="message_version_number"),
    )
    op.create_table(
        "user_session",
        sa.Column("token_hash", sa.Text(), nullable=False),
        sa.Column("user_id", sa.BigInteger(), nullable=False),
        sa.Column("csrf_token", sa.Text(), nullable=False),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("expires_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["user_id"],
            ["user_account.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    op.create_table(
        "campaign",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("name", sa.Text(), nullable=False),
        sa.Column("topic_id", sa.BigInteger(), nullable=True),
        sa.Column("audience_id", sa.BigInteger(), nullable=True),
        sa.Column("message_id", sa.BigInteger(), nullable=True),
        sa.Column("identity_id", sa.BigInteger(), nullable=True),
        sa.Column("sender_id", sa.BigInteger(), nullable=True),
        sa.Column("pace", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("edition", sa.Integer(), nullable=False),
        sa.Column("updated_at", sa.DateTime(timezone=True), nullable=False),
        sa.ForeignKeyConstraint(
            ["audience_id"],
            ["audience.id"],
        ),
        sa.ForeignKeyConstraint(
            ["identity_id"],
            ["identity.id"],
        ),
        sa.ForeignKeyConstraint(
            ["message_id"],
            ["message.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sender_id"],
            ["sender.id"],
        ),
        sa.ForeignKeyConstraint(
            ["topic_id"],
            ["topic.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "contact",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("contact_no", sa.Text(), nullable=True),
        sa.Column("address", sa.Text(), nullable=True),
        sa.Column("address_folded", sa.Text(), nullable=True),
        sa.Column("first_name", sa.Text(), nullable=True),
        sa.Column("last_name", sa.Text(), nullable=True),
        sa.Column("language", sa.Text(), nullable=True),
        sa.Column("values", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("folded", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("search", sa.Text(), nullable=False),
        sa.Column("import_id", sa.BigInteger(), nullable=True),
        sa.Column("created_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("updated_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("deleted_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["import_id"],
            ["import_file.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index(
        "contact_by_name",
        "contact",
        [sa.literal_column("(folded->>'last_name')"), sa.literal_column("(folded->>'first_name')"), "id"],
        unique=False,
    )
    op.create_index(
        "contact_no_unique", "contact", ["contact_no"], unique=True, postgresql_where=sa.text("deleted_at IS NULL")
    )
    op.create_index(op.f("ix_contact_address_folded"), "contact", ["address_folded"], unique=False)
    op.create_table(
        "import_refusal",
        sa.Column("import_id", sa.BigInteger(), nullable=False),
        sa.Column("row", sa.Integer(), nullable=False),
        sa.Column("code", sa.Text(), nullable=False),
        sa.Column("message", sa.Text(), nullable=False),
        sa.Column("cells", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.ForeignKeyConstraint(
            ["import_id"],
            ["import_file.id"],
        ),
        sa.PrimaryKeyConstraint("import_id", "row"),
    )
    op.create_table(
        "consent_event",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("contact_id", sa.BigInteger(), nullable=False),
        sa.Column("topic_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("way", sa.Text(), nullable=False),
        sa.Column("evidence", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("recorded_by", sa.BigInteger(), nullable=True),
        sa.CheckConstraint(
            "kind IN ('asked', 'granted', 'confirmed', 'imported', 'withdrawn')", name="consent_event_kind"
        ),
        sa.ForeignKeyConstraint(
            ["contact_id"],
            ["contact.id"],
        ),
        sa.ForeignKeyConstraint(
            ["recorded_by"],
            ["user_account.id"],
        ),
        sa.ForeignKeyConstraint(
            ["topic_id"],
            ["topic.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("consent_event_by_contact", "consent_event", ["contact_id", "topic_id", "id"], unique=False)
    op.create_table(
        "run",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("campaign_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("topic_id", sa.BigInteger(), nullable=False),
        sa.Column("message_version_id", sa.BigInteger(), nullable=False),
        sa.Column("sender_id", sa.BigInteger(), nullable=False),
        sa.Column("pace", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("criteria", sa.Text(), nullable=False),
        sa.Column("snapshot", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("clearance", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("planned", sa.Integer(), nullable=False),
        sa.Column("released_by", sa.BigInteger(), nullable=True),
        sa.Column("released_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("next_batch_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("paused_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("ended_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("trouble", sa.Text(), nullable=True),
        sa.CheckConstraint("state IN ('going', 'paused', 'stopped', 'ended')", name="run_state"),
        sa.ForeignKeyConstraint(
            ["campaign_id"],
            ["campaign.id"],
        ),
        sa.ForeignKeyConstraint(
            ["message_version_id"],
            ["message_version.id"],
        ),
        sa.ForeignKeyConstraint(
            ["released_by"],
            ["user_account.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sender_id"],
            ["sender.id"],
        ),
        sa.ForeignKeyConstraint(
            ["topic_id"],
            ["topic.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("campaign_id", "number", name="run_number"),
    )
    op.create_index(
        "run_one_at_a_time",
        "run",
        ["campaign_id"],
        unique=True,
        postgresql_where=sa.text("state IN ('going', 'paused')"),
    )
    op.create_table(
        "batch",
        sa.Column("run_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("size", sa.Integer(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("due_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("retry_of", sa.Integer(), nullable=True),
        sa.Column("lease_token", sa.Text(), nullable=True),
        sa.Column("lease_until", sa.DateTime(timezone=True), nullable=True),
        sa.Column("worker", sa.Text(), nullable=True),
        sa.Column("started_at", sa.DateTime(timezone=True), nullable=True),
        sa.CheckConstraint("state IN ('waiting', 'claimed', 'done')", name="batch_state"),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.PrimaryKeyConstraint("run_id", "number"),
    )
    op.create_index("batch_due", "batch", ["state", "due_at"], unique=False)
    op.create_table(
        "consent",
        sa.Column("contact_id", sa.BigInteger(), nullable=False),
        sa.Column("topic_id", sa.BigInteger(), nullable=False),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("since", sa.DateTime(timezone=True), nullable=False),
        sa.Column("last_kind", sa.Text(), nullable=False),
        sa.Column("event_id", sa.BigInteger(), nullable=False),
        sa.CheckConstraint("state IN ('never', 'asked', 'subscribed', 'left')", name="consent_state"),
        sa.ForeignKeyConstraint(
            ["contact_id"],
            ["contact.id"],
        ),
        sa.ForeignKeyConstraint(
            ["event_id"],
            ["consent_event.id"],
        ),
        sa.ForeignKeyConstraint(
            ["topic_id"],
            ["topic.id"],
        ),
        sa.PrimaryKeyConstraint("contact_id", "topic_id"),
    )
    op.create_table(
        "send_permit",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("sender_id", sa.BigInteger(), nullable=False),
        sa.Column("run_id", sa.BigInteger(), nullable=False),
        sa.Column("lease_token", sa.Text(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("taken_at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("closed_at", sa.DateTime(timezone=True), nullable=True),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.ForeignKeyConstraint(
            ["sender_id"],
            ["sender.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("send_permit_by_sender", "send_permit", ["sender_id", "closed_at"], unique=False)
    op.create_table(
        "delivery",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("run_id", sa.BigInteger(), nullable=False),
        sa.Column("batch_number", sa.Integer(), nullable=False),
        sa.Column("first_batch", sa.Integer(), nullable=False),
        sa.Column("contact_id", sa.BigInteger(), nullable=False),
        sa.Column("address", sa.Text(), nullable=False),
        sa.Column("address_folded", sa.Text(), nullable=False),
        sa.Column("record", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.Column("consent_since", sa.Date(), nullable=True),
        sa.Column("state", sa.Text(), nullable=False),
        sa.Column("lease_token", sa.Text(), nullable=True),
        sa.Column("attempts", sa.Integer(), nullable=False),
        sa.Column("held_gate", sa.Text(), nullable=True),
        sa.Column("held_reason", sa.Text(), nullable=True),
        sa.Column("marked_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("settled_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("next_at", sa.DateTime(timezone=True), nullable=True),
        sa.Column("digest", sa.Text(), nullable=True),
        sa.CheckConstraint(
            "state IN ('waiting', 'claimed', 'sending', 'accepted', 'deferred', 'refused', 'unknown', 'held', 'stopped')",
            name="delivery_state",
        ),
        sa.ForeignKeyConstraint(
            ["run_id", "batch_number"],
            ["batch.run_id", "batch.number"],
        ),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
        postgresql_with={"fillfactor": "70"},
    )
    op.create_index("delivery_by_batch", "delivery", ["run_id", "batch_number"], unique=False)
    op.create_index("delivery_by_contact", "delivery", ["contact_id"], unique=False)
    op.create_index("delivery_one_per_address", "delivery", ["run_id", "address_folded"], unique=True)
    op.create_table(
        "attempt",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("delivery_id", sa.BigInteger(), nullable=False),
        sa.Column("run_id", sa.BigInteger(), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("code", sa.Integer(), nullable=False),
        sa.Column("enhanced", sa.Text(), nullable=True),
        sa.Column("text", sa.Text(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("words", sa.Text(), nullable=False),
        sa.ForeignKeyConstraint(
            ["delivery_id"],
            ["delivery.id"],
        ),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("attempt_by_run", "attempt", ["run_id", "id"], unique=False)
    op.create_index(op.f("ix_attempt_delivery_id"), "attempt", ["delivery_id"], unique=False)
    op.create_table(
        "response_event",
        sa.Column("id", sa.BigInteger(), sa.Identity(always=False), nullable=False),
        sa.Column("delivery_id", sa.BigInteger(), nullable=False),
        sa.Column("run_id", sa.BigInteger(), nullable=False),
        sa.Column("kind", sa.Text(), nullable=False),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
        sa.Column("machine_rule", sa.Text(), nullable=True),
        sa.Column("detail", postgresql.JSONB(none_as_null=True, astext_type=sa.Text()), nullable=False),
        sa.CheckConstraint("kind IN ('opened', 'clicked', 'left')", name="response_event_kind"),
        sa.ForeignKeyConstraint(
            ["delivery_id"],
            ["delivery.id"],
        ),
        sa.ForeignKeyConstraint(
            ["run_id"],
            ["run.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("response_event_by_delivery", "response_event", ["delivery_id", "id"], unique=False)
    op.create_index("response_event_by_run", "response_event", ["run_id", "kind"], unique=False)
    op.execute(APPEND_ONLY)


def downgrade() -> None:
    op.execute("DROP FUNCTION refuse_change() CASCADE")
    op.drop_index("response_event_by_run", table_name="response_event")
    op.drop_index("response_event_by_delivery", table_name="response_event")
    op.drop_table("response_event")
    op.drop_index(op.f("ix_attempt_delivery_id"), table_name="attempt")
    op.drop_index("attempt_by_run", table_name="attempt")
    op.drop_table("attempt")
    op.drop_index("delivery_one_per_address", table_name="delivery")
    op.drop_index("delivery_by_contact", table_name="delivery")
    op.drop_index("delivery_by_batch", table_name="delivery")
    op.drop_table("delivery")
    op.drop_index("send_permit_by_sender", table_name="send_permit")
    op.drop_table("send_permit")
    op.drop_table("consent")
    op.drop_index("batch_due", table_name="batch")
    op.drop_table("batch")
    op.drop_index("run_one_at_a_time", table_name="run", postgresql_where=sa.text("state IN ('going', 'paused')"))
    op.drop_table("run")
    op.drop_index("consent_event_by_contact", table_name="consent_event")
    op.drop_table("consent_event")
    op.drop_table("import_refusal")
    op.drop_index(op.f("ix_contact_address_folded"), table_name="contact")
    op.drop_index("contact_no_unique", table_name="contact", postgresql_where=sa.text("deleted_at IS NULL"))
    op.drop_index("contact_by_name", table_name="contact")
    op.drop_table("contact")
    op.drop_table("campaign")
    op.drop_table("user_session")
    op.drop_table("message_version")
    op.drop_table("login_link")
    op.drop_table("import_file")
    op.drop_table("audience")
    op.drop_table("user_account")
    op.drop_table("topic")
    op.drop_index("suppression_in_force", table_name="suppression", postgresql_where=sa.text("lifted_at IS NULL"))
    op.drop_table("suppression")
    op.drop_table("sender")
    op.drop_table("organisation")
    op.drop_table("message")
    op.drop_index(op.f("ix_login_attempt_key"), table_name="login_attempt")
    op.drop_table("login_attempt")
    op.drop_table("identity")
    op.drop_table("contact_field")
