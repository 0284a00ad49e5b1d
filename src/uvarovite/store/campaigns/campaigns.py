"""The organisation, relays, senders, campaigns and runs."""

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import Row
from sqlmodel import col, select

from uvarovite.core.audiences import MONTH_DAYS, SETTLED_LATE, RunLately
from uvarovite.core.delivery import DeliveryState
from uvarovite.store.database import Transaction, run_sql
from uvarovite.store.tables import Campaign, Run


def campaign_list(tx: Transaction) -> list[Row[Any]]:
    """All campaigns, latest first, with their latest run: (id, name, topic, audience, run_id, run_state, planned …)."""
    return list(
        run_sql(
            tx,
            f"""SELECT campaign.id, campaign.name, topic.name AS topic, audience.name AS audience,
                    campaign.updated_at, run.id AS run_id, run.state AS run_state, run.planned, run.released_at,
                    run.ended_at, planned_release.at AS planned_at,
                    (SELECT coalesce(sum(n), 0) FROM run_count WHERE run_count.run_id = run.id
                        AND run_count.state = '{DeliveryState.ACCEPTED}')::integer AS accepted
                FROM campaign LEFT JOIN topic ON topic.id = campaign.topic_id
                LEFT JOIN audience ON audience.id = campaign.audience_id
                LEFT JOIN planned_release ON planned_release.campaign_id = campaign.id
                LEFT JOIN LATERAL (SELECT * FROM run WHERE run.campaign_id = campaign.id
                    ORDER BY number DESC LIMIT 1) AS run ON TRUE
                ORDER BY coalesce(run.released_at, campaign.updated_at) DESC, campaign.id DESC""",
        )
    )


def lock_campaign(tx: Transaction, campaign_id: int) -> Campaign | None:
    """A campaign whose row nobody else can change or release until the transaction ends."""
    query = select(Campaign).where(col(Campaign.id) == campaign_id).with_for_update()
    return tx.exec(query).first()


def lock_run(tx: Transaction, run_id: int) -> Run | None:
    """A run whose row nobody else can change until the transaction ends; what refers to it can be written meanwhile."""
    return tx.exec(select(Run).where(col(Run.id) == run_id).with_for_update(key_share=True)).first()


def runs_of_campaign(tx: Transaction, campaign_id: int) -> list[Run]:
    """The runs of a campaign, latest first."""
    query = select(Run).where(col(Run.campaign_id) == campaign_id).order_by(col(Run.number).desc())
    return list(tx.exec(query).all())


def last_run_of_topic(tx: Transaction, topic_id: int, *, besides: int) -> Row[Any] | None:
    """The latest run on a topic that is not of one campaign: (name, message_version_id, released_at)."""
    sql = """SELECT campaign.name, run.message_version_id, run.released_at FROM run
        JOIN campaign ON campaign.id = run.campaign_id
        WHERE run.topic_id = :topic AND run.campaign_id <> :besides ORDER BY run.released_at DESC, run.id DESC LIMIT 1"""
    return next(iter(run_sql(tx, sql, {"topic": topic_id, "besides": besides})), None)


def campaigns_using(tx: Transaction, audience_id: int) -> list[Row[Any]]:
    """The campaigns that use an audience, by name: (id, name)."""
    sql = "SELECT id, name FROM campaign WHERE audience_id = :id ORDER BY name"
    return list(run_sql(tx, sql, {"id": audience_id}))


def runs_lately(tx: Transaction, now: datetime) -> tuple[RunLately, ...]:
    """Every run that is not through, or that may have sent something within the time that caps are about."""
    rows = run_sql(
        tx,
        "SELECT id, topic_id, planned, ended_at FROM run WHERE ended_at IS NULL OR ended_at > :since ORDER BY id",
        {"since": now - timedelta(days=MONTH_DAYS) - SETTLED_LATE},
    )
    return tuple(RunLately(**row._asdict()) for row in rows)


def one_release_at_a_time(tx: Transaction) -> None:
    """Wait until no other transaction is releasing: caps and *not again* are about what others have released, too."""
    run_sql(tx, "SELECT pg_advisory_xact_lock(hashtext('release'))")


def last_run_of_audience(tx: Transaction, audience_id: int) -> Row[Any] | None:
    """The latest run that went to an audience: (id, topic_id, campaign_id, campaign, released_at, planned)."""
    rows = run_sql(
        tx,
        """SELECT run.id, run.topic_id, run.campaign_id, run.message_version_id, campaign.name AS campaign,
                run.released_at, run.planned
            FROM run JOIN campaign ON campaign.id = run.campaign_id
            WHERE run.audience_id = :id ORDER BY run.released_at DESC, run.id DESC LIMIT 1""",
        {"id": audience_id},
    )
    return rows[0] if rows else None
