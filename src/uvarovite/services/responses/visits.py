"""Requests of recipients: counted, so that guessing is hopeless and a flood is turned away."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.responses import Keyring, Purpose, Token, read_token
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store import tallies
from uvarovite.store.database import Database

# A mailbox that shows a message again and again, and a mail program that asks twice, stay far below; a provider that
# fetches pictures for many of its people comes from few addresses, so that opens are counted by token alone.
VISITS_PER_TOKEN = 30
VISITS_PER_ORIGIN = 1_200
VISITS_WINDOW = timedelta(minutes=1)


class TooManyVisits(ServiceRefusal):
    """So many requests came for one token, or from one place, that this one was not looked at."""

    def __init__(self) -> None:
        super().__init__("too_many", "Too many requests. Wait a minute, then try again.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Visit:
    """A request as the public pages saw it; `origin` is where it came from, as limits count it."""

    method: str
    agent: str
    origin: str


def admit(
    database: Database, token: str, purposes: frozenset[Purpose], visit: Visit, keyring: Keyring, now: datetime
) -> Token | None:
    """The token if it is one of ours, once the request is counted. Raises TooManyVisits.

    The count is a transaction of its own: those who come from one place do not wait for each other's work.
    """
    read = read_token(token, purposes, keyring)
    if read is not None:
        count_visit(database, read, visit, now)
    return read


def count_visit(database: Database, token: Token, visit: Visit, now: datetime) -> None:
    """Count a request with a token of ours; one for everybody only by its origin. Raises TooManyVisits."""
    of_token, of_origin = f"visit {token.purpose} {token.delivery_id}", f"visit from {visit.origin}"
    asked = [of_origin] if token.purpose is Purpose.PUBLIC_COPY else [of_token, of_origin]
    with database.transaction() as tx:
        counted = tallies.count_up(tx, asked, now, VISITS_WINDOW)
    if counted.get(of_token, 0) > VISITS_PER_TOKEN or counted[of_origin] > VISITS_PER_ORIGIN:
        raise TooManyVisits
