"""What is to become of a file: of each of its columns, and of those who are there already."""

from dataclasses import dataclass
from enum import StrEnum
from zoneinfo import ZoneInfo

from uvarovite.core.contacts.days import DateOrder
from uvarovite.core.contacts.evidence import Doubt
from uvarovite.core.contacts.matching import Match
from uvarovite.core.contacts.validating import Column, ColumnUse
from uvarovite.core.contacts.values import Reading
from uvarovite.core.values import StoredForm, form_of


class Policy(StrEnum):
    """What an import does to a field of somebody who is there already."""

    OVERWRITE = "overwrite"
    FILL = "fill"
    KEEP = "keep"


class ImportKey(StrEnum):
    """By what people of the file are known: the contact number first, else the address; or the address alone."""

    NUMBER = "contact_no"
    ADDRESS = "address"


@dataclass(frozen=True, slots=True, kw_only=True)
class ColumnPlan:
    """What becomes of a column. `doubts` are what its cells leave open, whether or not somebody has said it since."""

    use: ColumnUse
    field: str | None = None
    date_order: DateOrder | None = None
    century: int | None = None
    decimal_comma: bool | None = None
    policy: Policy = Policy.OVERWRITE
    doubts: tuple[Doubt, ...] = ()

    def column(self, zone: ZoneInfo) -> Column:
        """The column as the validator takes it; instants without a zone are read in `zone`."""
        reading = Reading(date_order=self.date_order, century=self.century, decimal_comma=self.decimal_comma, zone=zone)
        return Column(use=self.use, field=self.field, reading=reading)


def plan_of(match: Match, policy: Policy) -> ColumnPlan:
    """The plan of a column that was matched."""
    column = match.column
    return ColumnPlan(
        use=column.use,
        field=column.field,
        date_order=column.reading.date_order,
        century=column.reading.century,
        decimal_comma=column.reading.decimal_comma,
        policy=policy,
        doubts=tuple(sorted(match.doubts)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class ImportChoices:
    """What else was chosen: the key, the topic (by key) that all opted in to, and tags for everybody.

    `channel` is by_hand, or for a pull of a live source that nobody looks at, schedule or before_run.
    """

    key: ImportKey = ImportKey.NUMBER
    topic: str | None = None
    tags: tuple[str, ...] = ()
    channel: str = "by_hand"


COLUMNS_FORM: StoredForm[tuple[ColumnPlan, ...]] = form_of(tuple[ColumnPlan, ...], under="columns")
CHOICES_FORM: StoredForm[ImportChoices] = form_of(ImportChoices, sparse=True)
