"""The suppression list: looked through, added to, taken out and brought in as CSV."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.consent import REASON_WORDS, ConsentEvidence, SuppressionReason, may_be_lifted_by_user
from uvarovite.core.contacts.files import FileForm, read_file
from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.matching import plain_name
from uvarovite.core.contacts.sheets import Sheet
from uvarovite.core.contacts.tables_out import csv_lines, unescaped
from uvarovite.core.values import AddressFault, fold, read_address
from uvarovite.sandbox import convert_workbook
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.contacts.import_refusals import bad_import
from uvarovite.services.errors import BadInput
from uvarovite.services.saving.reasons import require_reason
from uvarovite.store.consent import suppressions as store
from uvarovite.store.consent.ledger import topics_by_name
from uvarovite.store.consent.suppressions import ListedEntry
from uvarovite.store.database import Database
from uvarovite.store.delivery import holding

LARGEST_PAGE = 200
# A list of a million addresses.
LARGEST_LIST_BYTES = 64 * 1024 * 1024


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
    evidence: ConsentEvidence
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
    """What importing a list did: added, there already, and lines that could not be read, with their reasons."""

    added: int
    already: int
    refused: list[str]


@needs(Permission.LOOK)
def suppression_page(
    database: Database,
    actor: Actor,
    *,
    search: str = "",
    reason: str | None = None,
    before: int | None = None,
    limit: int = 100,
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
    """(folded address, None) or (None, domain) of ada@b.example, or of @b.example, *@b.example or b.example; else a fault."""
    text = text.strip().strip("<>\"'")
    domain = text.removeprefix("*").removeprefix("@")
    if "@" not in domain:
        probe = read_address(f"probe@{domain}")
        return (
            f"“{text[:60]}” is neither an address nor a domain."
            if isinstance(probe, AddressFault)
            else (None, probe.domain)
        )
    address = read_address(text)
    return address.message if isinstance(address, AddressFault) else (address.folded, None)


@needs(Permission.CONTACTS)
def suppress_by_text(database: Database, actor: Actor, text: str, *, reason: str, now: datetime) -> bool:
    """Put an address or a whole domain on the list; False when it stands there already. Raises BadInput."""
    reason = require_reason(reason, "reason", "Say why; it stands on the suppression list.")
    found = _address_or_domain(text)
    if isinstance(found, str):
        raise BadInput("address", found)
    address, domain = found
    with database.transaction() as tx:
        # Whoever is just being marked is waited for, so that the list says what came first.
        holding.hold_suppressed(
            tx, address_folded=address, domain=domain, topic_id=None, reason=SuppressionReason.BY_HAND, now=now
        )
        new = store.suppress(
            tx,
            reason=SuppressionReason.BY_HAND,
            evidence=ConsentEvidence(why=reason),
            at=now,
            address_folded=address,
            domain=domain,
            recorded_by=actor.user_id,
        )
        if new:
            audit(tx, actor, Action.SUPPRESSED, entries=1)
        return new


@needs(Permission.CONTACTS)
def import_list_of_addresses(
    database: Database, actor: Actor, content: bytes, *, filename: str, now: datetime
) -> ListReport:
    """Import a suppression list from elsewhere: a file with a column of addresses or domains, and maybe topics and
    reasons, or a plain list without a line of names. What is no reason of ours is kept in its own words.

    An erasure cannot be stated by a list. Raises BadInput for a file that cannot be read.
    """
    try:
        sheet = _list_sheet(content)
        with database.transaction() as tx:
            entries, refused = _entries(sheet, topics_by_name(tx), filename)
            added = store.suppress_many(tx, entries, at=now, recorded_by=actor.user_id)
            audit(tx, actor, Action.SUPPRESSIONS_IMPORTED, entries=added, file=filename)
    except FileFault as fault:
        raise bad_import(fault.fault) from fault
    return ListReport(added=added, already=len(entries) - added, refused=refused[:200])


def _list_sheet(content: bytes) -> Sheet:
    try:
        sheet, _ = read_file(lambda: [content], FileForm(), workbooks=convert_workbook)
    except FileFault as fault:
        if fault.code != "no_header":
            raise
    else:
        # A first line that is itself a domain is no name of a column.
        if not any("." in header and not isinstance(_address_or_domain(header), str) for header in sheet.headers[:1]):
            return sheet
    return read_file(lambda: [content], FileForm(named=False), workbooks=convert_workbook)[0]


def _entries(sheet: Sheet, topics: Mapping[str, int], filename: str) -> tuple[list[ListedEntry], list[str]]:
    """(entries, refused rows with their reasons); of several rows that say the same the first counts."""
    names = [plain_name(header) for header in sheet.headers]

    def place_of(*wanted: str) -> int | None:
        return next((at for at, name in enumerate(names) if name in wanted), None)

    what, reason_at, topic_at = (
        place_of(*_LIST_NAMES) or 0,
        place_of("reason", "grund", "why"),
        place_of("topic", "thema"),
    )
    found: dict[tuple[str | None, str | None, int | None], ListedEntry] = {}
    refused: list[str] = []
    for row, cells in sheet.rows():
        whom = _address_or_domain(unescaped(cells[what])) if len(cells) > what else "The row is too short."
        named = cells[topic_at].strip() if topic_at is not None and len(cells) > topic_at else ""
        topic_id = topics.get(fold(named)) if named else None
        if not isinstance(whom, str) and named and topic_id is None:
            whom = f"There is no topic “{named[:40]}”."
        if not isinstance(whom, str) and whom[1] is not None and topic_id is not None:
            whom = "A whole domain is suppressed for everything, not for one topic."
        if isinstance(whom, str):
            refused.append(f"row {row}: {whom}")
            continue
        told = unescaped(cells[reason_at]).strip() if reason_at is not None and len(cells) > reason_at else ""
        reason = _REASONS.get(plain_name(told), SuppressionReason.BY_HAND)
        own_words = told and (plain_name(told) not in _REASONS or reason is SuppressionReason.ERASED)
        evidence = ConsentEvidence(file=filename[:200], row=row, why=told[:200] if own_words else None)
        if reason is SuppressionReason.ERASED:
            reason = SuppressionReason.BY_HAND
        address, domain = whom
        found.setdefault(
            (address, domain, topic_id),
            ListedEntry(address_folded=address, domain=domain, topic_id=topic_id, reason=reason, evidence=evidence),
        )
    return list(found.values()), refused


_REASONS = {plain_name(word): reason for reason, words in REASON_WORDS.items() for word in (reason.value, words)}
_LIST_NAMES = ("email", "emailaddress", "address", "mail", "domain", "what", "emailadresse", "addresses", "recipient")


@needs(Permission.EXPORT)
def list_as_csv(database: Database, actor: Actor) -> str:
    """The whole list in force as CSV: address or domain, topic, reason, when. Erased people are not on it."""
    rows: list[list[str]] = []
    before: int | None = None
    with database.transaction() as tx:
        audit(tx, actor, Action.SUPPRESSIONS_EXPORTED)
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
