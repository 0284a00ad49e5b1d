"""Releases that are planned for a moment, at most one for each campaign."""

from datetime import datetime

from sqlmodel import col, select

from uvarovite.store.database import Transaction, change_sql
from uvarovite.store.tables import PlannedRelease


def put(tx: Transaction, planned: PlannedRelease) -> None:
    """Plan one, in place of what was planned for the campaign."""
    remove(tx, planned.campaign_id)
    tx.add(planned)
    tx.flush()


def remove(tx: Transaction, campaign_id: int) -> bool:
    """Nothing is planned for a campaign any more; was something?"""
    return bool(change_sql(tx, "DELETE FROM planned_release WHERE campaign_id = :id", {"id": campaign_id}))


def of_campaign(tx: Transaction, campaign_id: int) -> PlannedRelease | None:
    """What is planned for a campaign."""
    return tx.exec(select(PlannedRelease).where(col(PlannedRelease.campaign_id) == campaign_id)).first()


def due(tx: Transaction, now: datetime) -> list[PlannedRelease]:
    """Those whose moment has come and that nothing has kept from going, in their order."""
    query = select(PlannedRelease).where(col(PlannedRelease.at) <= now, col(PlannedRelease.trouble).is_(None))
    return list(tx.exec(query.order_by(col(PlannedRelease.at), col(PlannedRelease.campaign_id))).all())


def take(tx: Transaction, planned: PlannedRelease) -> bool:
    """It goes now; False when it was taken back, planned anew or taken by another worker meanwhile."""
    return bool(
        change_sql(
            tx,
            "DELETE FROM planned_release WHERE campaign_id = :campaign AND id = :id",
            {"campaign": planned.campaign_id, "id": planned.id},
        )
    )


def note_trouble(tx: Transaction, planned: PlannedRelease, words: str) -> None:
    """Why it did not go."""
    change_sql(tx, "UPDATE planned_release SET trouble = :words WHERE id = :id", {"words": words, "id": planned.id})


def with_trouble(tx: Transaction) -> list[PlannedRelease]:
    """Those that did not go."""
    return list(tx.exec(select(PlannedRelease).where(col(PlannedRelease.trouble).is_not(None))).all())
