"""Keeping back what has not gone out yet: held for a person or a gate, or stopped with its run."""

from datetime import datetime

from uvarovite.core.audiences import MONTH_DAYS, WEEK_DAYS
from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.delivery import (
    DELIVERY,
    GONE_OUT,
    RUN,
    DeliveryEvent,
    DeliveryState,
)
from uvarovite.store.database import Transaction, change_sql
from uvarovite.store.states import before_sql, states_sql


def hold_contact(tx: Transaction, contact_id: int, topic_id: int, *, gate: str, reason: str, now: datetime) -> int:
    """Hold a person's deliveries of a topic that have not gone out yet, in every run; how many there were."""
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = :gate, held_reason = :reason, settled_at = :now
            FROM run WHERE run.id = delivery.run_id AND run.topic_id = :topic AND run.state IN ({states_sql(RUN.open)})
                AND delivery.contact_id = :contact AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)})""",
        {"contact": contact_id, "topic": topic_id, "gate": gate, "reason": reason, "now": now},
    )


def hold_address(tx: Transaction, address_folded: str, topic_id: int, *, gate: str, reason: str, now: datetime) -> int:
    """Hold the deliveries of a topic to an address that have not gone out yet, in every run; how many there were."""
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = :gate, held_reason = :reason, settled_at = :now
            FROM run WHERE run.id = delivery.run_id AND run.topic_id = :topic AND run.state IN ({states_sql(RUN.open)})
                AND delivery.address_folded = :address AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)})""",
        {"address": address_folded, "topic": topic_id, "gate": gate, "reason": reason, "now": now},
    )


def hold_suppressed(
    tx: Transaction, *, address_folded: str | None, domain: str | None, topic_id: int | None, reason: str, now: datetime
) -> int:
    """Hold what has not gone out yet to an address or a whole domain, of a topic or of all; how many there were."""
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = 'suppressed', held_reason = :reason,
                settled_at = :now
            FROM run WHERE run.id = delivery.run_id AND run.state IN ({states_sql(RUN.open)})
                AND run.topic_id = coalesce(CAST(:topic AS bigint), run.topic_id)
                AND {"delivery.address_folded = :about" if address_folded else "split_part(address_folded, '@', 2) = :about"}
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)})""",
        {"topic": topic_id, "about": address_folded or domain, "reason": reason, "now": now},
    )


def hold_beyond_limit(tx: Transaction, contact_id: int, at_most: AtMost, now: datetime) -> int:
    """Hold what has not gone out yet to somebody, in every run, beyond what they want; how many deliveries.

    Who had something within the span gets nothing more; else what is planned first may go.
    """
    return change_sql(
        tx,
        # Run by run: the index of what was sent lately holds everybody's.
        f"""WITH lately AS (SELECT FROM run JOIN sent_mail ON sent_mail.run_id = run.id AND sent_mail.contact_id = :contact
                WHERE (run.ended_at IS NULL OR run.ended_at > CAST(:now AS timestamptz) - make_interval(days => :days))
                    AND sent_mail.at > CAST(:now AS timestamptz) - make_interval(days => :days) LIMIT 1),
            waiting AS (SELECT delivery.id, row_number() OVER (ORDER BY delivery.id) AS place
                FROM run JOIN delivery ON delivery.run_id = run.id AND delivery.contact_id = :contact
                WHERE run.state IN ({states_sql(RUN.open)}) AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)}))
        UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = 'own_limit', held_reason = :at_most, settled_at = :now
            FROM waiting WHERE delivery.id = waiting.id AND (place > 1 OR EXISTS (SELECT FROM lately))
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)})""",
        {
            "contact": contact_id,
            "now": now,
            "days": WEEK_DAYS if at_most is AtMost.WEEK else MONTH_DAYS,
            "at_most": at_most.value,
        },
    )


def hold_chosen(tx: Transaction, *, gate: str, reason: str, now: datetime) -> int:
    """Hold what has not gone out yet to those in the temporary table `chosen`, in every run; how many there were."""
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = :gate, held_reason = :reason, settled_at = :now
            FROM chosen WHERE delivery.contact_id = chosen.contact_id
                AND delivery.state IN ({before_sql(DELIVERY, DeliveryEvent.HOLD)})""",
        {"gate": gate, "reason": reason, "now": now},
    )


def hold_merged(tx: Transaction, *, kept_id: int, gone_id: int, now: datetime) -> int:
    """Of two deliveries of one run to people who turn out to be one, hold what has not gone out yet; how many.

    The one that has gone out, or is just going, counts; else that of the contact that stays.
    """
    open_states = before_sql(DELIVERY, DeliveryEvent.HOLD)
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.HELD}', held_gate = 'duplicate', held_reason = 'merged', settled_at = :now
            WHERE contact_id IN (:kept, :gone) AND state IN ({open_states}) AND EXISTS (
                SELECT FROM delivery AS other WHERE other.run_id = delivery.run_id
                    AND other.contact_id IN (:kept, :gone) AND other.contact_id <> delivery.contact_id
                    AND (other.state IN ({states_sql(GONE_OUT)})
                        OR delivery.contact_id = :gone AND other.state IN ({open_states})))""",
        {"kept": kept_id, "gone": gone_id, "now": now},
    )


def stop_deliveries(tx: Transaction, run_id: int, now: datetime) -> int:
    """Stop everything of a run that has not gone out; how many deliveries that was."""
    return change_sql(
        tx,
        f"""UPDATE delivery SET state = '{DeliveryState.STOPPED}', settled_at = :now
            WHERE run_id = :run AND state IN ({before_sql(DELIVERY, DeliveryEvent.STOP)})""",
        {"run": run_id, "now": now},
    )
