"""The send log of a run as a file: who, what, when, through which relay, its answer, and what came back."""

from collections.abc import Iterator, Sequence
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts.tables_out import MOST_SHEET_ROWS, csv_lines, workbook_bytes
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.delivery.watching import HELD_WORDS
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.selection.exports import CSV, CSV_MEDIA, XLSX, XLSX_MEDIA, ExportedFile
from uvarovite.store.database import Database
from uvarovite.store.delivery.send_log import send_log_rows
from uvarovite.store.tables import Campaign, Run

HEADERS = (
    "Contact no.", "Name", "Address", "Batch", "State", "Attempts", "Last handed over", "Settled", "Relay", "Code",
    "Enhanced code", "Answer", "Meaning", "Opened", "Clicked", "Left", "Decided",
)  # fmt: skip


def _cells(row: Any, zone: ZoneInfo) -> Sequence[str]:
    def moment(at: datetime | None) -> str:
        return f"{at.astimezone(zone):%Y-%m-%d %H:%M:%S}" if at else ""

    held = HELD_WORDS.get((row.held_gate or "", row.held_reason or ""), row.held_reason or "")
    return (
        row.contact_no or "",
        row.name,
        row.address,
        str(row.first_batch),
        row.state,
        str(row.attempts),
        moment(row.marked_at) if row.attempts else "",
        moment(row.settled_at),
        row.relay or "",
        str(row.code) if row.code else "",
        row.enhanced or "",
        row.text or "",
        held or (meaning_words(row.meaning) if row.meaning else ""),
        moment(row.opened_at),
        moment(row.clicked_at),
        moment(row.left_at),
        row.decided or "",
    )


@needs(Permission.EXPORT)
def send_log(database: Database, actor: Actor, run_id: int, *, form: str) -> ExportedFile:
    """The send log of a run as CSV or XLSX; instants are by the organisation's clock. Raises NotFound, BadInput."""
    if form not in (CSV, XLSX):
        raise BadInput("form", "Choose CSV or XLSX.")
    with database.transaction() as tx:
        run = tx.get(Run, run_id)
        campaign = tx.get(Campaign, run.campaign_id) if run else None
        if run is None or campaign is None:
            raise NotFound("run")
        if form == XLSX and run.planned > MOST_SHEET_ROWS:
            raise BadInput("form", f"A sheet holds {MOST_SHEET_ROWS:,} rows; take the log out as CSV.")
        zone = ZoneInfo(require_organisation(tx).time_zone)
        audit(tx, actor, Action.LOG_EXPORTED, run_id, name=campaign.name, people=run.planned, form=form.upper())
        name = f"send log {campaign.name}, run {run.number}.{form}"
        if form == XLSX:
            rows = (_cells(row, zone) for row in send_log_rows(tx, run_id))
            whole = workbook_bytes("Send log", HEADERS, rows)
            return ExportedFile(filename=name, media_type=XLSX_MEDIA, pieces=iter([whole]))
    return ExportedFile(filename=name, media_type=CSV_MEDIA, pieces=_csv_pieces(database, run_id, zone))


def _csv_pieces(database: Database, run_id: int, zone: ZoneInfo) -> Iterator[bytes]:
    """The file while it is sent: a million rows are never in memory together."""
    with database.transaction() as tx:
        for text in csv_lines(HEADERS, (_cells(row, zone) for row in send_log_rows(tx, run_id))):
            yield text.encode()
