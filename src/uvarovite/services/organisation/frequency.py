"""How often a person may be written to, and which of several records with one address is kept."""

from dataclasses import dataclass

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import KeptRecord
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Database

# More than this is no cap.
MOST = 1_000


def require_caps(week: int | None, month: int | None) -> None:
    """Raises BadInput unless caps are possible, and the week's no more than the month's."""
    for cap in (week, month):
        if cap is not None and not 1 <= cap <= MOST:
            raise BadInput("cap", f"A cap is a number from 1 to {MOST:,}; an empty field means none.")
    if week is not None and month is not None and week > month:
        raise BadInput("cap", "The cap for 7 days cannot be more than that for 30 days.")


@dataclass(frozen=True, slots=True, kw_only=True)
class FrequencyLimits:
    """The organisation's caps on all mail to one person, in any 7 and in any 30 days, and which record is kept."""

    week_cap: int | None
    month_cap: int | None
    kept_record: KeptRecord


@needs(Permission.LOOK)
def frequency_limits(database: Database, actor: Actor) -> FrequencyLimits:
    """What is set. Raises ServiceRefusal before the organisation is set up."""
    with database.transaction() as tx:
        found = require_organisation(tx)
        return FrequencyLimits(
            week_cap=found.week_cap, month_cap=found.month_cap, kept_record=KeptRecord(found.kept_record)
        )


@needs(Permission.SET_UP)
def change_limits(database: Database, actor: Actor, change: FrequencyLimits) -> None:
    """Set the caps and the record that is kept. Raises BadInput, ServiceRefusal."""
    require_caps(change.week_cap, change.month_cap)
    with database.transaction() as tx:
        found = require_organisation(tx)
        found.week_cap, found.month_cap, found.kept_record = change.week_cap, change.month_cap, change.kept_record
        tx.add(found)
        audit(tx, actor, Action.LIMITS_CHANGED)
