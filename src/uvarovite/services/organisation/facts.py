"""The organisation's own facts: who it is, its topics, its relays."""

from zoneinfo import ZoneInfo

from uvarovite.core.contacts import Reading
from uvarovite.core.contacts.amounts import has_decimal_comma
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store import organisation as store
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Organisation


def require_organisation(tx: Transaction) -> Organisation:
    """The organisation. Raises ServiceRefusal before it is set up."""
    found = store.organisation(tx)
    if found is None:
        raise ServiceRefusal("not_set_up", "The organisation is not set up yet.")
    return found


def typed_reading(tx: Transaction) -> Reading:
    """How what somebody types is read: numbers in the organisation's style, instants in its zone."""
    organisation = require_organisation(tx)
    return Reading(decimal_comma=has_decimal_comma(organisation.locale), zone=ZoneInfo(organisation.time_zone))
