"""Which domains can take mail: asked of name servers, kept for each domain once."""

from collections.abc import Sequence
from datetime import datetime

from uvarovite.core.contacts.verification import DomainVerdict, Verdict
from uvarovite.store.database import Transaction, change_sql, run_sql
from uvarovite.store.tables import DomainCheck


def domains_to_check(tx: Transaction, now: datetime, limit: int) -> list[str]:
    """Domains of contacts that were never asked for, or whose time to be asked again has come."""
    rows = run_sql(
        tx,
        """SELECT here.domain FROM (
                SELECT DISTINCT split_part(address_folded, '@', 2) COLLATE "C" AS domain FROM contact
                WHERE deleted_at IS NULL AND address_folded IS NOT NULL) AS here
            LEFT JOIN domain_check USING (domain)
            WHERE domain_check.domain IS NULL OR again_at <= :now ORDER BY 1 LIMIT :limit""",
        {"now": now, "limit": limit},
    )
    return [row.domain for row in rows]


def put_verdicts(tx: Transaction, found: Sequence[tuple[str, DomainVerdict]], now: datetime) -> None:
    """Keep what was found. Where nobody answered, an earlier verdict stays and is asked for again soon."""
    change_sql(
        tx,
        f"""INSERT INTO domain_check (domain, verdict, reason, checked_at, again_at)
            SELECT domain, verdict, reason, :now, again_at FROM unnest(CAST(:domains AS text[]),
                CAST(:verdicts AS text[]), CAST(:reasons AS text[]), CAST(:again AS timestamptz[]))
                AS told(domain, verdict, reason, again_at)
            ON CONFLICT (domain) DO UPDATE SET again_at = excluded.again_at,
                verdict = CASE WHEN excluded.verdict = '{Verdict.UNCHECKED}' THEN domain_check.verdict
                    ELSE excluded.verdict END,
                reason = CASE WHEN excluded.verdict = '{Verdict.UNCHECKED}' THEN domain_check.reason
                    ELSE excluded.reason END,
                checked_at = CASE WHEN excluded.verdict = '{Verdict.UNCHECKED}' THEN domain_check.checked_at
                    ELSE excluded.checked_at END""",
        {
            "domains": [domain for domain, _ in found],
            "verdicts": [one.verdict.value for _, one in found],
            "reasons": [one.reason for _, one in found],
            "again": [now + one.again_in for _, one in found],
            "now": now,
        },
    )


def verdict_of(tx: Transaction, address_folded: str | None) -> DomainCheck | None:
    """What is known of an address's domain."""
    return tx.get(DomainCheck, address_folded.rpartition("@")[2]) if address_folded else None
