"""Taking an import back, set-based."""

from datetime import datetime

from uvarovite.core.consent import ConsentEventKind, ConsentEvidence
from uvarovite.store.consent.ledger import append_events
from uvarovite.store.contacts.records import write_search
from uvarovite.store.database import Transaction, change_sql, run_sql


def retract_consent(tx: Transaction, import_id: int, *, at: datetime, recorded_by: int | None) -> int:
    """Retract the consent that an import stated, wherever nothing has happened since; of how many people."""
    topics = run_sql(
        tx,
        """SELECT DISTINCT topic_id FROM consent_event
            WHERE kind = 'imported' AND evidence @> jsonb_build_object('import', CAST(:id AS bigint))""",
        {"id": import_id},
    )
    return sum(
        append_events(
            tx,
            """SELECT consent.contact_id FROM consent JOIN consent_event ON consent_event.id = consent.event_id
                WHERE consent.topic_id = :topic AND consent_event.kind = 'imported'
                    AND evidence @> jsonb_build_object('import', CAST(:id AS bigint))""",
            {"topic": topic.topic_id, "id": import_id},
            topic_id=topic.topic_id,
            kind=ConsentEventKind.RETRACTED,
            at=at,
            channel="import_undone",
            evidence=ConsentEvidence(import_id=import_id),
            recorded_by=recorded_by,
        )
        for topic in topics
    )


def remove_new(tx: Transaction, import_id: int, *, written_at: datetime, now: datetime) -> tuple[int, int]:
    """(removed, kept) of the people whom an import made; those who were changed or answered since are kept."""
    removed = change_sql(
        tx,
        """UPDATE contact SET deleted_at = :now WHERE import_id = :id AND deleted_at IS NULL AND updated_at = :written
            AND NOT EXISTS (SELECT FROM consent JOIN consent_event ON consent_event.id = consent.event_id
                WHERE consent.contact_id = contact.id AND consent_event.channel NOT IN ('import', 'import_undone'))
            AND NOT EXISTS (SELECT FROM delivery WHERE delivery.contact_id = contact.id)
            AND NOT EXISTS (SELECT FROM contact_note WHERE contact_note.contact_id = contact.id)""",
        {"id": import_id, "now": now, "written": written_at},
    )
    write_search(
        tx, "SELECT id FROM contact WHERE import_id = :id AND deleted_at = :now", {"id": import_id, "now": now}
    )
    kept = run_sql(tx, "SELECT count(*) FROM contact WHERE import_id = :id AND deleted_at IS NULL", {"id": import_id})
    return removed, int(kept[0][0])
