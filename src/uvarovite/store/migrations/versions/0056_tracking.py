"""what is noted of readers: for the organisation, a campaign, a person; copies that anybody may read"""

from alembic import op

revision = "0056"
down_revision = "0055"
branch_labels = None
depends_on = None

_LEVELS = "IN ('by_person', 'counted', 'off')"

STATEMENTS = f"""
ALTER TABLE organisation
    ADD track_opens text NOT NULL DEFAULT 'by_person' CONSTRAINT organisation_track_opens CHECK (track_opens {_LEVELS}),
    ADD track_clicks text NOT NULL DEFAULT 'by_person' CONSTRAINT organisation_track_clicks CHECK (track_clicks {_LEVELS});
ALTER TABLE organisation ALTER track_opens DROP DEFAULT, ALTER track_clicks DROP DEFAULT;
ALTER TABLE campaign
    ADD track_opens text CONSTRAINT campaign_track_opens CHECK (track_opens {_LEVELS}),
    ADD track_clicks text CONSTRAINT campaign_track_clicks CHECK (track_clicks {_LEVELS});
ALTER TABLE run ADD is_public boolean NOT NULL DEFAULT false;
ALTER TABLE run ALTER is_public DROP DEFAULT;
ALTER TABLE delivery ADD wish text;
CREATE TABLE tracking_wish (
    contact_id bigint CONSTRAINT tracking_wish_pkey PRIMARY KEY
        CONSTRAINT tracking_wish_contact_id_fkey REFERENCES contact,
    wish text NOT NULL CONSTRAINT tracking_wish_wish CHECK (wish {_LEVELS}),
    since timestamptz NOT NULL);
CREATE TABLE counted_response (
    run_id bigint CONSTRAINT counted_response_run_id_fkey REFERENCES run,
    kind text,
    number integer,
    n integer NOT NULL,
    CONSTRAINT counted_response_pkey PRIMARY KEY (run_id, kind, number));
"""


def upgrade() -> None:
    """Apply."""
    op.execute(STATEMENTS)


def downgrade() -> None:
    """Not provided for."""
    raise NotImplementedError
