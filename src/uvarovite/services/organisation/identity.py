"""Who the organisation is: its name, its postal address, how it writes numbers and what time it is there."""

from dataclasses import dataclass
from zoneinfo import available_timezones

from babel import Locale, UnknownLocaleError

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.values import AddressFault, read_address
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Database
from uvarovite.store.tables import Organisation

LONGEST_NAME = 200
LONGEST_POSTAL_ADDRESS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class OrganisationView:
    """The organisation. `locale` is a CLDR name, `time_zone` an IANA one; `list_domain` stands in List-Id (RFC 2919)."""

    name: str
    postal_address: str
    locale: str
    time_zone: str
    list_domain: str
    revision: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OrganisationChange:
    """The organisation as edited, from `revision` on."""

    name: str
    postal_address: str
    locale: str
    time_zone: str
    list_domain: str
    revision: int


_LABELS = {
    "name": "name",
    "postal_address": "postal address",
    "locale": "number and date formats",
    "time_zone": "time zone",
    "list_domain": "list domain",
}


def _view(found: Organisation) -> OrganisationView:
    told = {key: getattr(found, key) for key in _LABELS}
    return OrganisationView(**told, revision=found.revision)


@needs(Permission.LOOK)
def organisation_view(database: Database, actor: Actor) -> OrganisationView:
    """The organisation. Raises ServiceRefusal before it is set up."""
    with database.transaction() as tx:
        return _view(require_organisation(tx))


@needs(Permission.SET_UP)
def change_organisation(database: Database, actor: Actor, change: OrganisationChange) -> OrganisationView:
    """Save the organisation's facts; runs that were released keep those they were released with.

    Raises BadInput with the field, Conflict when it changed meanwhile.
    """
    told = _read(change)
    with database.transaction() as tx:
        found = require_organisation(tx)
        if found.revision != change.revision:
            raise Conflict("changed", "Somebody else changed this meanwhile; nothing of yours is saved.", _view(found))
        changed = [label for key, label in _LABELS.items() if getattr(found, key) != told[key]]
        if changed:
            for key, value in told.items():
                setattr(found, key, value)
            found.revision += 1
            tx.add(found)
            audit(tx, actor, Action.ORGANISATION_CHANGED, what=", ".join(changed))
        return _view(found)


def _read(change: OrganisationChange) -> dict[str, str]:
    name = " ".join(change.name.split())
    if not name or len(name) > LONGEST_NAME:
        raise BadInput("name", f"The organisation needs a name of at most {LONGEST_NAME} characters.", field="name")
    postal = "\n".join(line.strip() for line in change.postal_address.strip().splitlines())
    if not postal or len(postal) > LONGEST_POSTAL_ADDRESS:
        words = (
            f"A postal address of at most {LONGEST_POSTAL_ADDRESS} characters is needed; it stands in every message."
        )
        raise BadInput("postal_address", words, field="postal_address")
    if change.time_zone not in available_timezones():
        raise BadInput("time_zone", "This is no time zone. Choose one from the list.", field="time_zone")
    domain = read_address(f"probe@{change.list_domain.strip().lower()}")
    if isinstance(domain, AddressFault):
        raise BadInput("list_domain", "This is no domain. Write it as skarnmuseum.example.", field="list_domain")
    return {
        "name": name,
        "postal_address": postal,
        "locale": _locale(change.locale),
        "time_zone": change.time_zone,
        "list_domain": domain.domain,
    }


def _locale(text: str) -> str:
    try:
        return str(Locale.parse(text))
    except (ValueError, UnknownLocaleError) as fault:
        raise BadInput("locale", "These formats are not known. Choose some from the list.", field="locale") from fault
