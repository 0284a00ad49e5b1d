"""The suppression list: looked through, added to, taken out and brought in as CSV."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.consent import REASON_WORDS, SuppressionReason, may_be_lifted_by_user
from uvarovite.core.contacts.files import read_file
from uvarovite.core.contacts.matching import plain_name
from uvarovite.core.contacts.sheets import FileFault
from uvarovite.core.contacts.tables_out import csv_lines
from uvarovite.core.values import AddressFault, fold, read_address
from uvarovite.sandbox import convert_workbook
from uvarovite.services.errors import BadInput
from uvarovite.services.reasons import require_reason
from uvarovite.store import suppressions as store
from uvarovite.store.database import Database

LARGEST_PAGE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SuppressionEntry:
    """An entry in force. An erased person's entry shows no address, unless others have it. `liftable`: a user may take it off."""

    id: int
    what: str | None
    domain: bool
    topic: str | None
    reason: str
    words: str
    at: datetime
    evidence: dict[str, Any]
    recorded_by: str | None
    liftable: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SuppressionPage:
    """A page of the list, latest first; `counts` are of all entries in force, by reason."""

    entries: list[SuppressionEntry]
    before: int | None
    counts: dict[str, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class ListReport:
    """What bringing in a list did: added, there already, and lines that could not be read, with their reasons."""

    added: int
    already: int
    refused: list[str]


def suppression_page(
    database: Database, *, search: str = "", reason: str | None = None, before: int | None = None, limit: int = 100
) -> SuppressionPage:
    """A page of the suppression list."""
    limit = min(max(limit, 1), LARGEST_PAGE)
    with database.transaction() as tx:
        rows = store.suppression_page(tx, search=fold(search.strip()), reason=reason, before_id=before, limit=limit)
        entries = [
            SuppressionEntry(
                id=row.id,
                what=row.address_folded or row.domain,
                domain=row.domain is not None,
                topic=row.topic,
                reason=row.reason,
                words=REASON_WORDS[SuppressionReason(row.reason)],
                at=row.at,
                evidence=row.evidence,
                recorded_by=row.recorded_by,
                liftable=may_be_lifted_by_user(SuppressionReason(row.reason)),
            )
            for row in rows
        ]
        return SuppressionPage(
            entries=entries,
            before=entries[-1].id if len(entries) == limit else None,
            counts=store.count_suppressions(tx),
        )


def _address_or_domain(text: str) -> tuple[str | None, str | None] | str:
    """(folded address, None) or (None, domain) of a text such as ada@b.example, @b.example or b.example; else a fault."""
    text = text.strip().strip("<>\"'")
    domain = text.removeprefix("@")
    if "@" not in domain:
        probe = read_address(f"probe@{domain}")
        return (
            f"“{text[:60]}” is neither an address nor a domain."
            if isinstance(probe, AddressFault)
            else (None, probe.domain)
        )
    address = read_address(text)
    return address.message if isinstance(address, AddressFault) else (address.folded, None)


def suppress_by_text(database: Database, text: str, *, reason: str, user_id: int | None, now: datetime) -> bool:
    """Put an address or a whole domain on the list; False when it stands there already. Raises BadInput."""
    reason = require_reason(reason, "reason", "Say why; it stands on the suppression list.")
    found = _address_or_domain(text)
    if isinstance(found, str):
        raise BadInput("address", found)
    with database.transaction() as tx:
        return store.suppress(
            tx,
            reason=SuppressionReason.BY_HAND,
            evidence={"why": reason},
            at=now,
            address_folded=found[0],
            domain=found[1],
            recorded_by=user_id,
        )


_REASONS = {plain_name(word): reason for reason, words in REASON_WORDS.items() for word in (reason.value, words)}


def bring_in_list(
    database: Database, content: bytes, *, filename: str, user_id: int | None, now: datetime
) -> ListReport:
    """Bring in a suppression list from elsewhere: a file with a column of addresses or domains, and maybe reasons.

    An erasure cannot be stated by a list. Raises BadInput for a file that cannot be read.
    """
    try:
        sheet, _ = read_file(lambda: [content], {}, workbooks=convert_workbook)
        names = [plain_name(header) for header in sheet.headers]
        place = next((at for at, name in enumerate(names) if name in _LIST_NAMES), 0)
        reason_place = next((at for at, name in enumerate(names) if name in ("reason", "grund", "why")), None)
        entries: dict[tuple[str | None, str | None], str] = {}
        refused: list[str] = []
        for row, cells in sheet.rows():
            found = _address_or_domain(cells[place]) if len(cells) > place else "The row is too short."
            if isinstance(found, str):
                refused.append(f"row {row}: {found}")
                continue
            told = cells[reason_place] if reason_place is not None and len(cells) > reason_place else ""
            reason = _REASONS.get(plain_name(told), SuppressionReason.BY_HAND)
            entries[found] = SuppressionReason.BY_HAND if reason is SuppressionReason.ERASED else reason
    except FileFault as fault:
        raise BadInput(f"file_{fault.code}", fault.message) from fault
    with database.transaction() as tx:
        added = store.suppress_many(
            tx,
            [(address, domain, reason) for (address, domain), reason in entries.items()],
            evidence={"file": filename[:200]},
            at=now,
            recorded_by=user_id,
        )
        return ListReport(added=added, already=len(entries) - added, refused=refused[:200])


_LIST_NAMES = frozenset({"email", "emailaddress", "address", "mail", "domain", "what", "emailadresse"})


def list_as_csv(database: Database) -> str:
    """The whole list in force as CSV: address or domain, topic, reason, when. Erased people are not on it."""
    rows: list[list[str]] = []
    before: int | None = None
    with database.transaction() as tx:
        while page := store.suppression_page(tx, search="", reason=None, before_id=before, limit=5_000):
            rows += [
                [
                    row.address_folded or f"@{row.domain}",
                    row.topic or "",
                    row.reason,
                    row.at.isoformat(timespec="seconds"),
                ]
                for row in page
                if row.address_folded or row.domain
            ]
            before = page[-1].id
    # A domain is written with its @, which a spreadsheet would take for a formula: it gets its apostrophe like all.
    return "".join(csv_lines(["address", "topic", "reason", "since"], rows))
