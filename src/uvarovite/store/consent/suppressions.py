"""The suppression list."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

import orjson
from sqlalchemy import Row

from uvarovite.core.consent import EVIDENCE_FORM, ConsentEvidence, SuppressionReason
from uvarovite.store.database import Transaction, change_sql, run_sql


def suppress(
    tx: Transaction,
    *,
    reason: SuppressionReason,
    evidence: ConsentEvidence,
    at: datetime,
    address_folded: str | None = None,
    domain: str | None = None,
    address_hash: str | None = None,
    topic_id: int | None = None,
    recorded_by: int | None = None,
) -> bool:
    """Put an address, a domain or a hash on the list; False when it stands there already, which stays as it is."""
    return bool(
        change_sql(
            tx,
            """INSERT INTO suppression (address_folded, domain, address_hash, topic_id, reason, evidence, at, recorded_by)
                VALUES (:address, :domain, :hash, :topic, :reason, CAST(:evidence AS jsonb), :at, :by)
                ON CONFLICT DO NOTHING""",
            {
                "address": address_folded,
                "domain": domain,
                "hash": address_hash,
                "topic": topic_id,
                "reason": reason.value,
                "evidence": orjson.dumps(EVIDENCE_FORM.write(evidence)).decode(),
                "at": at,
                "by": recorded_by,
            },
        )
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ListedEntry:
    """An address or a whole domain, for everything or for one topic, with what is known of the reason."""

    address_folded: str | None
    domain: str | None
    topic_id: int | None
    reason: SuppressionReason
    evidence: ConsentEvidence


def suppress_many(tx: Transaction, entries: Sequence[ListedEntry], *, at: datetime, recorded_by: int | None) -> int:
    """Put many on the list; how many were not there yet."""
    return change_sql(
        tx,
        """INSERT INTO suppression (address_folded, domain, topic_id, reason, evidence, at, recorded_by)
            SELECT address, domain, topic, reason, CAST(evidence AS jsonb), CAST(:at AS timestamptz), CAST(:by AS bigint)
            FROM unnest(CAST(:addresses AS text[]), CAST(:domains AS text[]), CAST(:topics AS bigint[]),
                CAST(:reasons AS text[]), CAST(:evidence AS text[])) AS told(address, domain, topic, reason, evidence)
            ON CONFLICT DO NOTHING""",
        {
            "addresses": [entry.address_folded for entry in entries],
            "domains": [entry.domain for entry in entries],
            "topics": [entry.topic_id for entry in entries],
            "reasons": [entry.reason.value for entry in entries],
            "evidence": [orjson.dumps(EVIDENCE_FORM.write(entry.evidence)).decode() for entry in entries],
            "at": at,
            "by": recorded_by,
        },
    )


def suppressions_of(tx: Transaction, address_folded: str | None) -> list[Row[Any]]:
    """What is in force for an address: (id, reason, at, evidence, topic, domain), the widest first."""
    return list(
        run_sql(
            tx,
            """SELECT suppression.id, reason, at, evidence, topic.name AS topic, domain
                FROM suppression LEFT JOIN topic ON topic.id = suppression.topic_id
                WHERE lifted_at IS NULL AND (address_folded = :address OR domain = split_part(:address, '@', 2))
                ORDER BY domain IS NULL, topic_id IS NOT NULL, suppression.id""",
            {"address": address_folded},
            {"evidence": EVIDENCE_FORM},
        )
    )


_LISTED = """SELECT suppression.id, address_folded, domain, reason, at, evidence, topic.name AS topic,
        topic.key AS topic_key, recorder.name AS recorded_by, lifted_at, lifter.name AS lifted_by, lifted_why
    FROM suppression LEFT JOIN topic ON topic.id = suppression.topic_id
    LEFT JOIN user_account AS recorder ON recorder.id = suppression.recorded_by
    LEFT JOIN user_account AS lifter ON lifter.id = suppression.lifted_by"""


def suppression_page(
    tx: Transaction, *, search: str, reason: str | None, before_id: int | None, limit: int
) -> list[Row[Any]]:
    """Entries in force, latest first; those of erased people show no address."""
    return list(
        run_sql(
            tx,
            f"""{_LISTED}
            WHERE lifted_at IS NULL AND (:before IS NULL OR suppression.id < :before)
                AND (:reason IS NULL OR reason = :reason)
                AND (:search = '' OR position(:search IN coalesce(address_folded, domain, '')) > 0)
            ORDER BY suppression.id DESC LIMIT :limit""".replace(":before", "CAST(:before AS bigint)").replace(
                ":reason", "CAST(:reason AS text)"
            ),
            {"search": search, "reason": reason, "before": before_id, "limit": limit},
            {"evidence": EVIDENCE_FORM},
        )
    )


def count_suppressions(tx: Transaction) -> dict[str, int]:
    """How many entries are in force, by reason."""
    sql = "SELECT reason, count(*) AS n FROM suppression WHERE lifted_at IS NULL GROUP BY 1"
    return {row.reason: row.n for row in run_sql(tx, sql)}


def get_suppression(tx: Transaction, suppression_id: int) -> Row[Any] | None:
    """One entry that is in force, locked until the end of the transaction."""
    rows = run_sql(
        tx,
        "SELECT id, reason, address_folded, domain FROM suppression WHERE id = :id AND lifted_at IS NULL FOR UPDATE",
        {"id": suppression_id},
    )
    return rows[0] if rows else None


def lift(tx: Transaction, suppression_id: int, *, at: datetime, user_id: int | None, why: str) -> None:
    """Take an entry off the list; it stays as history."""
    change_sql(
        tx,
        "UPDATE suppression SET lifted_at = :at, lifted_by = :by, lifted_why = :why WHERE id = :id",
        {"id": suppression_id, "at": at, "by": user_id, "why": why},
    )


def lift_erased(tx: Transaction, address_hash: str, *, at: datetime, why: str) -> None:
    """Take an erased address off the list, since its owner came back; the entry stays as history."""
    change_sql(
        tx,
        """UPDATE suppression SET lifted_at = :at, lifted_why = :why
            WHERE address_hash = :hash AND lifted_at IS NULL""",
        {"hash": address_hash, "at": at, "why": why},
    )


def erased_hashes(tx: Transaction) -> frozenset[str]:
    """The keyed hashes of all addresses whose owners asked to be forgotten."""
    rows = run_sql(tx, "SELECT address_hash FROM suppression WHERE address_hash IS NOT NULL AND lifted_at IS NULL")
    return frozenset(row.address_hash for row in rows)
