"""Tokens for programs: shown once, kept as a hash, and worth no more than whoever made them."""

import secrets
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.accounts import PERMISSIONS, Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.passwords import hash_secret
from uvarovite.services.accounts.permitted import needs, require, user_of
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.accounts import tokens as store
from uvarovite.store.accounts import users as user_store
from uvarovite.store.database import Database
from uvarovite.store.tables import ApiToken, User

# What a token begins with, so that one that was left lying about is recognised for what it is.
PREFIX = "uvarovite_"
_SHOWN = len(PREFIX) + 4
MOST_TOKENS = 50
LONGEST_LIFE = timedelta(days=3 * 365)


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenLine:
    """A token; it is recognised by its `beginning`."""

    id: int
    user_id: int
    owner: str
    name: str
    beginning: str
    scopes: list[str]
    created_at: datetime
    expires_at: datetime | None
    used_at: datetime | None
    revoked_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NewToken:
    """A token that was just made: `token` is told this once."""

    id: int
    token: str


@needs(Permission.OWN_ACCOUNT)
def token_list(database: Database, actor: Actor) -> list[TokenLine]:
    """One's own tokens; who looks after the accounts sees everybody's."""
    everybody = actor.may(Permission.ACCOUNTS)
    with database.transaction() as tx:
        return [TokenLine(**row._mapping) for row in store.token_lines(tx, None if everybody else user_of(actor))]


@needs(Permission.OWN_ACCOUNT)
def make_token(
    database: Database, actor: Actor, *, name: str, scopes: Collection[Permission], days: int | None, now: datetime
) -> NewToken:
    """A token for a program. `days` is how long it works, None for as long as it is not revoked.

    Raises BadInput for no name, no scope or one that cannot be lent, NotAllowed for one that one has not oneself.
    """
    return _make(database, actor, user_of(actor), name=name, scopes=scopes, days=days, now=now)


@needs(Permission.ACCOUNTS)
def make_token_for(
    database: Database,
    actor: Actor,
    *,
    email: str,
    name: str,
    scopes: Collection[Permission],
    days: int | None,
    now: datetime,
) -> NewToken:
    """The same for somebody else, from the command line. Raises BadInput for an unknown user too."""
    with database.transaction() as tx:
        user = user_store.user_by_email(tx, email)
        if user is None or user.id is None or user.left_at is not None:
            raise BadInput("unknown_user", f"There is no account for {email}.")
        user_id = user.id
    return _make(database, actor, user_id, name=name, scopes=scopes, days=days, now=now)


def _make(
    database: Database,
    actor: Actor,
    user_id: int,
    *,
    name: str,
    scopes: Collection[Permission],
    days: int | None,
    now: datetime,
) -> NewToken:
    if not name.strip():
        raise BadInput("blank", "Say what the token is for.", field="name")
    if not scopes:
        raise BadInput("scopes", "Choose at least one thing that the token may do.", field="scopes")
    if days is not None and not 1 <= days <= LONGEST_LIFE.days:
        raise BadInput("days", f"A token works for 1 to {LONGEST_LIFE.days:,} days.", field="days")
    for scope in scopes:
        if not PERMISSIONS[scope].for_tokens:
            raise BadInput("scopes", f"No token may {PERMISSIONS[scope].words}.", field="scopes")
        require(actor, scope)
    token = PREFIX + secrets.token_urlsafe(32)
    with database.transaction() as tx:
        user_store.lock_user(tx, user_id)
        if sum(row.revoked_at is None for row in store.token_lines(tx, user_id)) >= MOST_TOKENS:
            raise BadInput("many", f"There are {MOST_TOKENS} tokens already. Revoke one that is not needed.")
        row = ApiToken(
            user_id=user_id,
            name=name.strip(),
            token_hash=hash_secret(token),
            beginning=token[:_SHOWN],
            scopes=sorted(scopes),
            created_at=now,
            expires_at=now + timedelta(days=days) if days else None,
        )
        tx.add(row)
        tx.flush()
        words = "; ".join(row.words for row in PERMISSIONS.values() if row.permission in scopes)
        audit(tx, actor, Action.TOKEN_MADE, row.id, token=row.name, scopes=words)
        return NewToken(id=row.id or 0, token=token)


@needs(Permission.OWN_ACCOUNT)
def revoke_token(database: Database, actor: Actor, token_id: int, *, now: datetime) -> None:
    """A token does not work any more. Raises NotFound; also for somebody else's, unless one looks after the accounts."""
    with database.transaction() as tx:
        token = tx.get(ApiToken, token_id, with_for_update=True)
        if token is None or (token.user_id != actor.user_id and not actor.may(Permission.ACCOUNTS)):
            raise NotFound("token")
        if token.revoked_at is not None:
            return
        token.revoked_at = now
        tx.add(token)
        owner = tx.get(User, token.user_id)
        audit(tx, actor, Action.TOKEN_REVOKED, token_id, token=token.name, name=owner.name if owner else "?")
