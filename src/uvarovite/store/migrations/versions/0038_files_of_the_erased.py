"""a file that was uploaded for one person goes when they are erased, and its name with it

Versions of messages name the files of their sets, and the audit log each file that was uploaded: both let go of such a name
and of nothing else.
"""

from alembic import op

revision = "0038"
down_revision = "0037"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE FUNCTION words_without_own_files(content jsonb) RETURNS jsonb LANGUAGE sql IMMUTABLE AS $$
    SELECT content || jsonb_build_object('attachments', (
        SELECT jsonb_agg(CASE WHEN one->>'kind' = 'own' THEN one - 'files' ELSE one END ORDER BY place)
            FROM jsonb_array_elements(content->'attachments') WITH ORDINALITY AS told(one, place)))
$$;
CREATE FUNCTION words_are_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE' AND NEW.content ? 'attachments'
        AND (NEW.id, NEW.message_id, NEW.number, NEW.created_by, NEW.created_at, words_without_own_files(NEW.content))
            IS NOT DISTINCT FROM
            (OLD.id, OLD.message_id, OLD.number, OLD.created_by, OLD.created_at, words_without_own_files(OLD.content))
        AND NOT EXISTS (
            SELECT jsonb_path_query(NEW.content, '$.attachments[*].files[*]')
            EXCEPT ALL SELECT jsonb_path_query(OLD.content, '$.attachments[*].files[*]'))
    THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION '% is append-only', TG_TABLE_NAME USING ERRCODE = 'restrict_violation';
END $$;
DROP TRIGGER message_version_append_only ON message_version;
CREATE TRIGGER message_version_append_only BEFORE UPDATE OR DELETE ON message_version
    FOR EACH ROW EXECUTE FUNCTION words_are_append_only();

CREATE OR REPLACE FUNCTION refuse_audit_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'UPDATE'
        AND (NEW.id, NEW.at, NEW.actor_kind, NEW.actor_name, NEW.action, NEW.about_id, NEW.facts - 'to' - 'name')
        IS NOT DISTINCT FROM
            (OLD.id, OLD.at, OLD.actor_kind, OLD.actor_name, OLD.action, OLD.about_id, OLD.facts - 'to' - 'name')
        AND (NEW.facts->'to' IS NOT DISTINCT FROM OLD.facts->'to' OR NEW.facts->>'to' = 'an erased address')
        AND (NEW.facts->'name' IS NOT DISTINCT FROM OLD.facts->'name'
            OR NEW.action = 'attachment_kept' AND NEW.facts->>'name' = 'of an erased person')
        AND (NEW.user_id IS NULL OR NEW.user_id = OLD.user_id) AND (NEW.token_id IS NULL OR NEW.token_id = OLD.token_id)
    THEN
        RETURN NEW;
    END IF;
    RAISE EXCEPTION 'the audit log is not changed' USING ERRCODE = 'check_violation';
END $$;
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
