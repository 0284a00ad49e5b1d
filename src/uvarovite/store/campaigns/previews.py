"""Who was cleared when somebody looked, or in the last run, and who is cleared now."""

from datetime import datetime

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.delivery import DeliveryState
from uvarovite.core.expressions import SqlFragment
from uvarovite.store.audiences.clearance import clearance_sql
from uvarovite.store.audiences.differences import Difference, difference
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.states import states_sql


def keep_preview(
    tx: Transaction, campaign_id: int, revision: int, criteria: SqlFragment, terms: ClearanceTerms, at: datetime
) -> None:
    """Keep who is cleared, in the place of what was seen before."""
    judged = clearance_sql(criteria, terms)
    change_sql(
        tx,
        f"""INSERT INTO campaign_preview (campaign_id, revision, taken_at, cleared)
            WITH {judged.text}
            SELECT :preview_campaign, :preview_revision, :preview_at, coalesce(array_agg(contact_id), '{{}}')
            FROM judged WHERE held IS NULL
            ON CONFLICT (campaign_id) DO UPDATE SET revision = excluded.revision, taken_at = excluded.taken_at,
                cleared = excluded.cleared""",
        {**judged.parameters, "preview_campaign": campaign_id, "preview_revision": revision, "preview_at": at},
    )


def difference_to_preview(tx: Transaction, campaign_id: int, revision: int, limit: int) -> Difference | None:
    """What changed between the last look at this revision of a campaign and `judged_now`; None without a look."""
    asked = {"campaign": campaign_id, "revision": revision}
    look = "campaign_preview WHERE campaign_id = :campaign AND revision = :revision"
    if not run_sql(tx, f"SELECT FROM {look}", asked):
        return None
    now, then = (
        "SELECT contact_id FROM judged_now WHERE gate IS NULL",
        f"SELECT unnest(cleared) AS contact_id FROM {look}",
    )
    return difference(tx, now, then, asked, limit)


def difference_to_run(
    tx: Transaction, run_id: int, criteria: SqlFragment, terms: ClearanceTerms, limit: int
) -> Difference:
    """What changed between those who got a run, or are about to, and who is cleared now."""
    judged = clearance_sql(criteria, terms)
    asked = {**judged.parameters, "compared_run": run_id}
    now = f"WITH {judged.text} SELECT contact_id FROM judged WHERE held IS NULL"
    then = f"""SELECT contact_id FROM delivery WHERE run_id = :compared_run
        AND state NOT IN ({states_sql({DeliveryState.HELD, DeliveryState.STOPPED, DeliveryState.REFUSED})})"""
    return difference(tx, now, then, asked, limit)
