"""what a person closed stays closed for their address, and a confirmation counts for the address that it came from

Leaving hung on the record alone: once it was deleted, merged or its address corrected, the next file opened it again.

Going back is not provided for: what the new table holds has no place in the old ones.
"""

from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

STATEMENTS = """
CREATE TABLE address_closing (
    address_folded text COLLATE "C" NOT NULL,
    topic_id bigint NOT NULL REFERENCES topic,
    left_at timestamptz, left_spares timestamptz, left_by bigint, left_event bigint,
    paused_until timestamptz, paused_spares timestamptz, paused_by bigint,
    PRIMARY KEY (address_folded, topic_id),
    CONSTRAINT address_closing_of_something CHECK (num_nonnulls(left_at, paused_until) > 0));
CREATE INDEX address_closing_left_by ON address_closing (left_by) WHERE left_by IS NOT NULL;
CREATE INDEX address_closing_paused_by ON address_closing (paused_by) WHERE paused_by IS NOT NULL;

ALTER TABLE consent ADD COLUMN confirmed_address text COLLATE "C";
UPDATE consent SET confirmed_address = contact.address_folded FROM contact
    WHERE contact.id = consent.contact_id AND consent.confirmed;

-- Whoever left by the link of a message closed the mailbox that it went to.
INSERT INTO address_closing (address_folded, topic_id, left_at, left_by, left_event)
    SELECT DISTINCT ON (1, 2) delivery.address_folded, consent.topic_id, event.at, consent.contact_id, event.id
    FROM consent
    JOIN consent_event AS event ON event.contact_id = consent.contact_id AND event.topic_id = consent.topic_id
        AND event.kind = 'withdrawn' AND event.way IN ('link', 'one_click')
    JOIN delivery ON delivery.id = CAST(event.evidence->>'delivery' AS bigint)
    WHERE consent.state = 'left' AND delivery.address_folded NOT LIKE 'erased %'
    ORDER BY 1, 2, event.id DESC;
-- Whoever has an address alone, and whoever had one and is deleted.
INSERT INTO address_closing (address_folded, topic_id, left_at, left_spares, left_by, left_event,
        paused_until, paused_spares, paused_by)
    SELECT DISTINCT ON (1, 2) contact.address_folded, consent.topic_id,
        CASE WHEN state = 'left' THEN since END, CASE WHEN state = 'left' THEN deleted_at END,
        CASE WHEN state = 'left' THEN contact.id END, CASE WHEN state = 'left' THEN event_id END,
        paused_until, CASE WHEN paused_until IS NOT NULL THEN deleted_at END,
        CASE WHEN paused_until IS NOT NULL THEN contact.id END
    FROM consent JOIN contact ON contact.id = consent.contact_id
    WHERE (state = 'left' OR paused_until IS NOT NULL) AND contact.address_folded IS NOT NULL
        AND (contact.deleted_at IS NOT NULL OR NOT EXISTS (SELECT FROM contact AS other
            WHERE other.address_folded = contact.address_folded AND other.id <> contact.id AND other.deleted_at IS NULL))
    ORDER BY 1, 2, deleted_at DESC NULLS FIRST
    ON CONFLICT DO NOTHING;

-- Somebody who is gone from an address leaves there what they had closed, for whoever comes to it later.
CREATE FUNCTION keep_closed_address() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE gone timestamptz := coalesce(NEW.deleted_at, NEW.updated_at);
BEGIN
    INSERT INTO address_closing AS there (address_folded, topic_id, left_at, left_spares, left_by, left_event,
            paused_until, paused_spares, paused_by)
        SELECT OLD.address_folded, topic_id, CASE WHEN state = 'left' THEN since END,
            CASE WHEN state = 'left' THEN gone END, CASE WHEN state = 'left' THEN contact_id END,
            CASE WHEN state = 'left' THEN event_id END, paused_until, CASE WHEN paused_until IS NOT NULL THEN gone END,
            CASE WHEN paused_until IS NOT NULL THEN contact_id END
        FROM consent WHERE contact_id = OLD.id AND (state = 'left' OR paused_until IS NOT NULL)
        ON CONFLICT (address_folded, topic_id) DO UPDATE SET
            left_spares = CASE WHEN there.left_at IS NULL THEN excluded.left_spares ELSE there.left_spares END,
            left_by = CASE WHEN there.left_at IS NULL THEN excluded.left_by ELSE there.left_by END,
            left_event = CASE WHEN there.left_at IS NULL THEN excluded.left_event ELSE there.left_event END,
            left_at = coalesce(there.left_at, excluded.left_at),
            paused_spares = CASE WHEN there.paused_until IS NULL THEN excluded.paused_spares ELSE there.paused_spares END,
            paused_by = CASE WHEN there.paused_until IS NULL THEN excluded.paused_by ELSE there.paused_by END,
            paused_until = greatest(there.paused_until, excluded.paused_until);
    RETURN NULL;
END $$;
CREATE TRIGGER contact_keeps_closed_address AFTER UPDATE ON contact FOR EACH ROW
    WHEN (OLD.address_folded IS NOT NULL AND NEW.erased_at IS NULL
        AND (OLD.address_folded IS DISTINCT FROM NEW.address_folded
            OR OLD.deleted_at IS NULL AND NEW.deleted_at IS NOT NULL))
    EXECUTE FUNCTION keep_closed_address();

CREATE TRIGGER consent_event_never_emptied BEFORE TRUNCATE ON consent_event
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
CREATE TRIGGER message_version_never_emptied BEFORE TRUNCATE ON message_version
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
