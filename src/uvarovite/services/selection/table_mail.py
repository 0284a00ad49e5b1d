"""Ticked contacts to a colleague: as a table in a message, and the same as a file. What was sent is logged."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.table_message import MOST_ROWS_SHOWN, AttachedFile, ContactTable, assemble_table
from uvarovite.core.values import wire_form
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs, user_of
from uvarovite.services.addresses import require_address
from uvarovite.services.errors import BadInput, ServiceRefusal
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import relay_for_one
from uvarovite.services.organisation.single_mails import PreparedMail
from uvarovite.services.selection.bulk import Selection, choose
from uvarovite.services.selection.exports import CSV, XLSX, column_labels, file_bytes, table_cells
from uvarovite.store import organisation as organisation_store
from uvarovite.store.accounts.users import users
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database
from uvarovite.store.selection import exports as store
from uvarovite.store.selection.exports import table_mail_lines
from uvarovite.store.tables import TableMail

# A mailbox takes some 20 MB; this many people with usual columns stay far below.
MOST_PEOPLE = 10_000
LARGEST_FILE_BYTES = 10 << 20
LONGEST_NOTE = 2_000
LOG_SHOWN = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class TableMailLine:
    """A table that was sent: by whom, to whom, how many people with which columns, and what the relay said."""

    at: datetime
    by: str | None
    to_address: str
    contacts: int
    columns: list[str]
    form: str
    accepted: bool
    answer: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Colleague:
    """Somebody with an account."""

    name: str
    email: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PreparedTable:
    """A table that is ready to go, and what the log will say of it."""

    mail: PreparedMail
    contacts: int
    columns: list[str]
    form: str


@needs(Permission.HAND_OUT)
def prepare_table(
    database: Database,
    actor: Actor,
    selection: Selection,
    *,
    columns: Sequence[str],
    form: str,
    to_address: str,
    note: str,
    mail_id: str,
    now: datetime,
) -> PreparedTable:
    """The message with the selected people. Raises BadInput (nobody ticked, too many, no address), Conflict."""
    address = require_address(to_address)
    if form not in (CSV, XLSX) or not columns:
        raise BadInput("form", "Choose CSV or XLSX, and at least one column.")
    if len(note) > LONGEST_NOTE:
        raise BadInput("note", f"A note has at most {LONGEST_NOTE:,} characters.")
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        fields = load_fields(tx)
        labels = column_labels(columns, fields)
        count = choose(tx, selection, now)
        if count > MOST_PEOPLE:
            raise BadInput("many", f"At most {MOST_PEOPLE:,} people go by mail. Export them as a file, or tick fewer.")
        relay = relay_for_one(tx, None, now)
        sender = next(iter(organisation_store.senders(tx)), None)
        if relay is None or sender is None:
            raise ServiceRefusal("no_relay", "There is no relay or no sender to send with yet; see Set-up.")
        rows = [table_cells(row, columns, fields) for row in store.chosen_rows(tx)]
    filename, media_type, content = file_bytes(labels, rows, form, now)
    if len(content) > LARGEST_FILE_BYTES:
        raise BadInput("large", "The file is too large for a mailbox. Choose fewer columns, or tick fewer people.")
    people = "1 person" if count == 1 else f"{count:,} people"
    table = ContactTable(
        title=f"{people} from the contacts of {organisation.name}",
        note=note,
        headers=labels,
        rows=rows[:MOST_ROWS_SHOWN],
        total=count,
    )
    envelope = Envelope(
        message_id=f"table.{mail_id}@{sender.address.rpartition('@')[2]}",
        date=now,
        from_name=actor.name,
        from_address=sender.address,
        to_name="",
        to_address=address,
        reply_to=actor.email,
        list_id=None,
        unsubscribe_url=None,
    )
    attached = AttachedFile(filename=filename, media_type=media_type, content=content)
    mail = PreparedMail(
        relay=relay,
        from_address=sender.address,
        to_address=wire_form(address),
        raw=assemble_table(table, attached, envelope),
        failed="Nothing was sent.",
    )
    return PreparedTable(mail=mail, contacts=count, columns=list(columns), form=form)


@needs(Permission.HAND_OUT)
def log_table(
    database: Database, actor: Actor, sent: PreparedTable, *, accepted: bool, answer: str, now: datetime
) -> None:
    """Write down what was sent, whether the relay took it or not."""
    with database.transaction() as tx:
        audit(
            tx, actor, Action.TABLE_SENT, people=sent.contacts, to=sent.mail.to_address, columns=", ".join(sent.columns)
        )
        tx.add(
            TableMail(
                at=now,
                user_id=user_of(actor),
                to_address=sent.mail.to_address,
                contacts=sent.contacts,
                columns=sent.columns,
                form=sent.form,
                accepted=accepted,
                answer=answer[:500],
            )
        )


@needs(Permission.LOOK)
def sent_tables(database: Database, actor: Actor) -> list[TableMailLine]:
    """The tables that were sent, latest first."""
    with database.transaction() as tx:
        return [TableMailLine(**row._mapping) for row in table_mail_lines(tx, LOG_SHOWN)]


@needs(Permission.LOOK)
def colleagues(database: Database, actor: Actor) -> list[Colleague]:
    """Everybody with an account, by name."""
    with database.transaction() as tx:
        return [Colleague(name=one.name, email=one.email) for one in users(tx)]
