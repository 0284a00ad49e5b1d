"""What every route gets: the parts that bootstrap put together, and who is asking."""

from collections.abc import Awaitable, Callable, Mapping
from concurrent.futures import Executor
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from fastapi import Depends, Request, Security
from fastapi.security import APIKeyCookie, HTTPBearer, SecurityScopes

from uvarovite.api.guard import COOKIE, CSRF_HEADER, READING, STALE
from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourcePreview
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.asker import Asker
from uvarovite.services.accounts.permitted import require
from uvarovite.services.bounded import BoundedWork
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.organisation.single_mails import HandedOver
from uvarovite.services.sources.jobs import PullTools


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceDoor:
    """Other databases: the tables that are there, a look at what is asked for, and what a pull needs.

    `tables` and `look` raise ServiceRefusal.
    """

    tables: Callable[[SourceAccess], list[str]]
    preview: Callable[[SourceAccess, SourceAsk], SourcePreview]
    pulling: PullTools


@dataclass(frozen=True, slots=True, kw_only=True)
class ApiContext:
    """`send_test`, `send_table`, `send_answer`, `try_relay`, `sources`, `texts_at` and `check_domain` do what needs the network; bootstrap gives
    them. `jobs` runs what takes longer than a request should, `sign_ins` looks at passwords. `recorded_at` is None
    where the database tells the instant that is recorded; `hash_address` is the keyed hash by which erased addresses
    are known. `scenarios` are those of the simulated world, with what each is about. `live` tells of what has just changed.
    """

    database: Any
    keyring: Keyring
    rehearsed_keyring: Keyring
    scenarios: Mapping[str, str]
    secret: bytes
    public_url: str
    inbox_url: str | None
    clock: Callable[[], datetime]
    recorded_at: Callable[[], datetime | None]
    jobs: Executor
    hash_address: Callable[[str], str]
    send_test: Callable[..., Awaitable[HandedOver]]
    send_table: Callable[..., Awaitable[HandedOver]]
    send_answer: Callable[..., Awaitable[HandedOver]]
    try_relay: Callable[..., Awaitable[Any]]
    check_domain: Callable[[str], Awaitable[None]]
    texts_at: Callable[[str], Awaitable[list[str] | None]]
    sources: SourceDoor
    sign_ins: BoundedWork
    live: Any


def get_context(request: Request) -> ApiContext:
    """The application's parts."""
    context: ApiContext = request.app.state.api
    return context


# What the description of the API says about coming in; the guard has looked at both already.
_SESSION = APIKeyCookie(name=COOKIE, scheme_name="session", auto_error=False)
_TOKEN = HTTPBearer(scheme_name="token", auto_error=False)


def get_asker(
    request: Request,
    needed: SecurityScopes,
    session: Annotated[object, Security(_SESSION)],
    token: Annotated[object, Security(_TOKEN)],
) -> Asker:
    """Who asks, when they may do what the route names. A change by a session carries its CSRF token in a header."""
    asker: Asker | None = request.state.asker
    if asker is None:
        raise ServiceRefusal("not_signed_in", "Sign in first.")
    if request.method not in READING and not asker.means_it(request.headers.get(CSRF_HEADER)):
        raise ServiceRefusal("csrf", STALE)
    for scope in needed.scopes:
        require(asker.actor, Permission(scope))
    return asker


def get_actor(asker: Annotated[Asker, Security(get_asker)]) -> Actor:
    """The same, as who does it."""
    return asker.actor


Context = Annotated[ApiContext, Depends(get_context)]
# A route names here what it takes; the description of the API names it too.
OwnBrowser = Annotated[Asker, Security(get_asker, scopes=[Permission.OWN_ACCOUNT])]
MayLook = Annotated[Actor, Security(get_actor, scopes=[Permission.LOOK])]
MayOwnAccount = Annotated[Actor, Security(get_actor, scopes=[Permission.OWN_ACCOUNT])]
MayContacts = Annotated[Actor, Security(get_actor, scopes=[Permission.CONTACTS])]
MayWrite = Annotated[Actor, Security(get_actor, scopes=[Permission.WRITE])]
MayAnswer = Annotated[Actor, Security(get_actor, scopes=[Permission.ANSWER])]
MayPause = Annotated[Actor, Security(get_actor, scopes=[Permission.PAUSE])]
MayRelease = Annotated[Actor, Security(get_actor, scopes=[Permission.RELEASE])]
MayLift = Annotated[Actor, Security(get_actor, scopes=[Permission.LIFT])]
MayErase = Annotated[Actor, Security(get_actor, scopes=[Permission.ERASE])]
MayExport = Annotated[Actor, Security(get_actor, scopes=[Permission.EXPORT])]
MayHandOut = Annotated[Actor, Security(get_actor, scopes=[Permission.HAND_OUT])]
MaySetUp = Annotated[Actor, Security(get_actor, scopes=[Permission.SET_UP])]
MayAccounts = Annotated[Actor, Security(get_actor, scopes=[Permission.ACCOUNTS])]
MayAudit = Annotated[Actor, Security(get_actor, scopes=[Permission.AUDIT])]
