"""What looking at a file found, or writing it did."""

import re
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from uvarovite.core.contacts.days import DateOrder
from uvarovite.core.contacts.evidence import Doubt
from uvarovite.core.contacts.import_plan import Policy
from uvarovite.core.contacts.sheets import FileNote, NoteCode
from uvarovite.core.contacts.validating import ColumnUse
from uvarovite.core.values import Json, StoredForm, form_of


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldProposal:
    """A field that could be made of a column."""

    key: str
    label: str
    type: str
    currency: str | None
    choices: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnMatch:
    """A column of the file and what becomes of it, with its first values.

    `use` is leave_out, field, tags or topics; `date_order`, `century` and `decimal_comma` say how it is read; `doubts` are
    what its cells leave open (date_order, century, decimal, contact_number), `open` what of that nobody has said yet;
    `policy` is what happens to people who are there already.
    """

    header: str
    use: ColumnUse
    field: str | None
    type: str | None
    samples: list[str]
    confidence: float
    basis: str
    date_order: DateOrder | None
    century: int | None
    decimal_comma: bool | None
    doubts: list[Doubt]
    open: list[Doubt]
    policy: Policy
    proposal: FieldProposal | None


@dataclass(frozen=True, slots=True, kw_only=True)
class FieldChange:
    """One field of a changed row, in stored form."""

    field: str
    before: Any
    after: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangedRow:
    """A row that changes a contact."""

    row: int
    name: str
    changes: list[FieldChange]


@dataclass(frozen=True, slots=True, kw_only=True)
class NewRow:
    """A row that makes a contact."""

    row: int
    record: dict[str, Any]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConsentOutlook:
    """What stating consent does: newly subscribed, subscribed already, had left and stay out."""

    subscribed: int
    already: int
    left: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberMeeting:
    """A row with a contact number that somebody else has, as it seems: both addresses, and what they are called."""

    row: int
    contact_no: str
    address: str
    name: str
    their_address: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberMeets:
    """Rows whose contact number belongs to somebody with another address, and the first of them."""

    rows: int
    examples: list[NumberMeeting]


@dataclass(frozen=True, slots=True, kw_only=True)
class OddDomain:
    """A domain in the file that is one slip away from a usual one, and how many rows have it."""

    domain: str
    usual: str
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True)
class GonePerson:
    """Somebody who stood in a live source at the last pull and does not any more."""

    id: int
    name: str
    address: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SinceLast:
    """What differs in a live source from its last pull at `at`, with the first of those who are gone."""

    at: datetime
    new: int
    changed: int
    gone: int
    gone_people: list[GonePerson]


@dataclass(frozen=True, slots=True, kw_only=True)
class UndoneView:
    """What undoing an import did: people taken away, given back their values, and those changed since, left as they are."""

    removed: int
    restored: int
    kept: int


@dataclass(slots=True, kw_only=True)
class ImportReport:
    """What was found: how many rows of each kind, and the first of them. `topics_named` counts the rows that name each
    topic in a column of their own, `changed_fields` the changed rows of each field; `since` is a live source's.
    """

    columns: list[ColumnMatch] = field(default_factory=list)
    new: int = 0
    changed: int = 0
    same: int = 0
    refused: int = 0
    changed_rows: list[ChangedRow] = field(default_factory=list)
    changed_fields: dict[str, int] = field(default_factory=dict)
    new_rows: list[NewRow] = field(default_factory=list)
    meets: NumberMeets | None = None
    notes: list[FileNote] = field(default_factory=list)
    outlook: ConsentOutlook | None = None
    topics_named: dict[str, int] = field(default_factory=dict)
    odd_domains: list[OddDomain] = field(default_factory=list)
    since: SinceLast | None = None
    undone: UndoneView | None = None

    @property
    def rows(self) -> int:
        """How many rows there are in all."""
        return self.new + self.changed + self.same + self.refused


def _notes_as_codes(form: Json) -> Json:
    """The first version held the whole of what was shown, and its notes as sentences: one was known then."""
    counts = [re.match(r"[\d,]+", note) for note in form.get("notes", ())]
    notes = [{"code": NoteCode.SEVERAL_ADDRESSES, "count": int(one[0].replace(",", ""))} for one in counts if one]
    return {**form, "notes": notes}


REPORT_FORM: StoredForm[ImportReport] = form_of(ImportReport, version=2, older={1: _notes_as_codes})
