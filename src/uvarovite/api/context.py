"""What every route gets: the parts that bootstrap put together, and who is asking."""

from collections.abc import Awaitable, Callable
from concurrent.futures import Executor
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Any

from fastapi import Depends, Request

from uvarovite.api.guard import CSRF_HEADER, READING, STALE
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourcePreview
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.signing_in import SignedIn
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
    """`send_test`, `send_table`, `try_relay`, `sources` and `check_domain` do what needs the network; bootstrap gives
    them. `jobs` runs what takes longer than a request should, `sign_ins` looks at passwords. `recorded_at` is None
    where the database tells the instant that is recorded; `hash_address` is the keyed hash by which erased addresses
    are known.
    """

    database: Any
    keyring: Keyring
    secret: bytes
    public_url: str
    inbox_url: str | None
    clock: Callable[[], datetime]
    recorded_at: Callable[[], datetime | None]
    jobs: Executor
    hash_address: Callable[[str], str]
    send_test: Callable[..., Awaitable[HandedOver]]
    send_table: Callable[..., Awaitable[HandedOver]]
    try_relay: Callable[..., Awaitable[Any]]
    check_domain: Callable[[str], Awaitable[None]]
    sources: SourceDoor
    sign_ins: BoundedWork


def get_context(request: Request) -> ApiContext:
    """The application's parts."""
    context: ApiContext = request.app.state.api
    return context


def get_user(request: Request) -> SignedIn:
    """Who is signed in. A request that changes something must carry the session's CSRF token in a header."""
    user: SignedIn | None = request.state.user
    if user is None:
        raise ServiceRefusal("not_signed_in", "Sign in first.")
    if request.method not in READING and request.headers.get(CSRF_HEADER) != user.csrf_token:
        raise ServiceRefusal("csrf", STALE)
    return user


Context = Annotated[ApiContext, Depends(get_context)]
User = Annotated[SignedIn, Depends(get_user)]
