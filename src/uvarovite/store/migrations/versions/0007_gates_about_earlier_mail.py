"""caps, double opt-in, who gets it again, and what was on screen before a release

Going back is not provided for: what the new tables hold has no place in the old ones.
"""

from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

STATEMENTS = """
ALTER TABLE organisation ADD COLUMN week_cap integer, ADD COLUMN month_cap integer,
    ADD COLUMN kept_record text NOT NULL DEFAULT 'first_added';
ALTER TABLE organisation ALTER COLUMN kept_record DROP DEFAULT,
    ADD CONSTRAINT organisation_kept_record CHECK (kept_record IN ('first_added', 'last_changed', 'fullest'));
ALTER TABLE topic ADD COLUMN double_opt_in boolean NOT NULL DEFAULT FALSE, ADD COLUMN week_cap integer,
    ADD COLUMN month_cap integer;
ALTER TABLE topic ALTER COLUMN double_opt_in DROP DEFAULT;
ALTER TABLE consent ADD COLUMN confirmed boolean NOT NULL DEFAULT FALSE;
ALTER TABLE consent ALTER COLUMN confirmed DROP DEFAULT;
-- Confirmed, and not closed by anything since.
UPDATE consent SET confirmed = TRUE WHERE state = 'subscribed' AND EXISTS (
    SELECT FROM consent_event AS told WHERE told.contact_id = consent.contact_id AND told.topic_id = consent.topic_id
        AND told.kind = 'confirmed' AND NOT EXISTS (
            SELECT FROM consent_event AS later WHERE later.contact_id = told.contact_id
                AND later.topic_id = told.topic_id AND later.id > told.id
                AND later.kind IN ('withdrawn', 'retracted')));
ALTER TABLE campaign ADD COLUMN again text NOT NULL DEFAULT 'new_to_message',
    ADD COLUMN lifted jsonb NOT NULL DEFAULT '[]';
ALTER TABLE campaign ALTER COLUMN again DROP DEFAULT, ALTER COLUMN lifted DROP DEFAULT,
    ADD CONSTRAINT campaign_again CHECK (again IN ('new_to_message', 'new_to_campaign', 'everybody'));
ALTER TABLE run ADD COLUMN audience_id bigint REFERENCES audience ON DELETE SET NULL;
UPDATE run SET audience_id = campaign.audience_id FROM campaign WHERE campaign.id = run.campaign_id;
ALTER TABLE audience ADD COLUMN part jsonb;
CREATE TABLE campaign_look (
    campaign_id bigint PRIMARY KEY REFERENCES campaign ON DELETE CASCADE, edition integer NOT NULL,
    taken_at timestamptz NOT NULL, cleared bigint[] NOT NULL);
CREATE TABLE sent_mail (
    run_id bigint NOT NULL REFERENCES run, contact_id bigint NOT NULL, at timestamptz NOT NULL,
    accepted boolean NOT NULL, PRIMARY KEY (run_id, contact_id));
INSERT INTO sent_mail SELECT run_id, contact_id, max(coalesce(settled_at, marked_at)), bool_or(state = 'accepted')
    FROM delivery WHERE state IN ('accepted', 'unknown') AND coalesce(settled_at, marked_at) IS NOT NULL
    GROUP BY 1, 2 ORDER BY 3;
CREATE INDEX sent_mail_lately ON sent_mail (at) INCLUDE (contact_id, run_id, accepted);
"""


def upgrade() -> None:
    op.execute(STATEMENTS)


def downgrade() -> None:
    raise NotImplementedError("restore a backup from before this migration")
