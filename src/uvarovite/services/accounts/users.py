"""Who works here: inviting, roles, leaving. There is always an administrator who can come in."""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.accounts import ROLES, Action, Actor, Permission, Role
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.passwords import hash_password, hash_secret
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.addresses import require_address
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.store.accounts import sessions as session_store
from uvarovite.store.accounts import tokens as token_store
from uvarovite.store.accounts import users as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import LinkPurpose, User

LINK_LASTS = timedelta(hours=24)
INVITATION_LASTS = timedelta(days=7)
_LABELS = {row.role: row.label for row in ROLES}


@dataclass(frozen=True, slots=True, kw_only=True)
class UserLine:
    """Somebody with an account. One without a password was invited and has not come yet."""

    id: int
    name: str
    email: str
    role: Role
    has_password: bool
    sessions: int
    tokens: int
    created_at: datetime
    seen_at: datetime | None
    left_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Invitation:
    """What an invited person is given: it is told once and kept nowhere."""

    user_id: int
    token: str
    expires_at: datetime


@needs(Permission.ACCOUNTS)
def user_list(database: Database, actor: Actor, now: datetime) -> list[UserLine]:
    """Everybody with an account, those who left last."""
    with database.transaction() as tx:
        return [UserLine(**{**row._mapping, "role": Role(row.role)}) for row in store.user_lines(tx, now)]


@needs(Permission.ACCOUNTS)
def create_user(
    database: Database,
    actor: Actor,
    *,
    email: str,
    name: str,
    password: str,
    now: datetime,
    role: Role = Role.ADMINISTRATOR,
) -> int:
    """Make an account with a password. Raises BadInput for an address in use, or a short password."""
    hashed = hash_password(password)
    with database.transaction() as tx:
        user = _new_user(tx, email=email, name=name, role=role, now=now)
        user.password_hash = hashed
        audit(tx, actor, Action.USER_ADDED, user.id, name=user.name, role=_LABELS[role])
        assert user.id is not None
        return user.id


def _new_user(tx: Transaction, *, email: str, name: str, role: Role, now: datetime) -> User:
    """An account without a password; one of somebody who left is opened again. Raises BadInput."""
    address = require_address(email).lower()
    user = store.user_by_email(tx, address)
    if user and user.left_at is None:
        raise BadInput("taken", f"There is an account for {address} already.", field="email")
    if user:
        user.left_at, user.password_hash = None, None
    else:
        user = User(email=address, name=address, role=role, created_at=now)
    user.name, user.role = name.strip() or user.name, role
    tx.add(user)
    tx.flush()
    return user


def _link(tx: Transaction, user_id: int, purpose: LinkPurpose, expires_at: datetime) -> Invitation:
    token = secrets.token_urlsafe(24)
    store.add_link(tx, hash_secret(token), user_id, purpose, expires_at)
    return Invitation(user_id=user_id, token=token, expires_at=expires_at)


@needs(Permission.ACCOUNTS)
def invite(database: Database, actor: Actor, *, email: str, name: str, role: Role, now: datetime) -> Invitation:
    """Make an account and the link by which its owner chooses a password. Raises BadInput for an address in use."""
    with database.transaction() as tx:
        user = _new_user(tx, email=email, name=name, role=role, now=now)
        audit(tx, actor, Action.USER_INVITED, user.id, name=user.name, role=_LABELS[role])
        return _link(tx, user.id or 0, LinkPurpose.PASSWORD, now + INVITATION_LASTS)


@needs(Permission.ACCOUNTS)
def new_link(database: Database, actor: Actor, user_id: int, *, now: datetime) -> Invitation:
    """Another link by which somebody chooses a password, where the first is too old or the password forgotten."""
    with database.transaction() as tx:
        user = _present(tx, user_id)
        audit(tx, actor, Action.LINK_MADE, user_id, name=user.name)
        return _link(tx, user_id, LinkPurpose.PASSWORD, now + INVITATION_LASTS)


@needs(Permission.ACCOUNTS)
def make_link(database: Database, actor: Actor, *, email: str, now: datetime) -> str:
    """A token that signs a user in once within a day. Raises BadInput for an unknown user."""
    with database.transaction() as tx:
        user = store.user_by_email(tx, email)
        if user is None or user.id is None or user.left_at is not None:
            raise BadInput("unknown_user", f"There is no account for {email}.")
        audit(tx, actor, Action.LINK_MADE, user.id, name=user.name)
        return _link(tx, user.id, LinkPurpose.SIGN_IN, now + LINK_LASTS).token


def _present(tx: Transaction, user_id: int) -> User:
    user = store.lock_user(tx, user_id)
    if user is None or user.left_at is not None:
        raise NotFound("account")
    return user


def _keep_an_administrator(tx: Transaction, user: User) -> None:
    if user.role == Role.ADMINISTRATOR and not store.other_administrators(tx, user.id or 0):
        raise ServiceRefusal(
            "last_administrator",
            f"{user.name} is the only administrator who can sign in. Make somebody else one first.",
        )


@needs(Permission.ACCOUNTS)
def change_role(database: Database, actor: Actor, user_id: int, role: Role) -> None:
    """Give somebody another role; their sessions end. Raises NotFound, ServiceRefusal for the last administrator."""
    with database.transaction() as tx:
        user = _present(tx, user_id)
        if user.role == role:
            return
        _keep_an_administrator(tx, user)
        before, user.role = Role(user.role), role
        tx.add(user)
        session_store.end_sessions(tx, user_id)
        audit(tx, actor, Action.ROLE_CHANGED, user_id, name=user.name, role=_LABELS[role], before=_LABELS[before])


@needs(Permission.ACCOUNTS)
def close_account(database: Database, actor: Actor, user_id: int, *, now: datetime) -> None:
    """Somebody leaves: sessions and links end, tokens are revoked, unsaved drafts go. What they did keeps their name.

    Raises NotFound, ServiceRefusal for the last administrator.
    """
    with database.transaction() as tx:
        user = _present(tx, user_id)
        _keep_an_administrator(tx, user)
        user.left_at, user.password_hash = now, None
        tx.add(user)
        session_store.end_sessions(tx, user_id)
        store.forget_links(tx, user_id)
        token_store.revoke_tokens_of(tx, user_id, now)
        store.forget_drafts_of(tx, user_id)
        audit(tx, actor, Action.USER_LEFT, user_id, name=user.name)


@needs(Permission.ACCOUNTS)
def end_sessions_of(database: Database, actor: Actor, user_id: int) -> int:
    """Sign somebody out everywhere; how many browsers that were. Raises NotFound."""
    with database.transaction() as tx:
        user = _present(tx, user_id)
        ended = session_store.end_sessions(tx, user_id)
        audit(tx, actor, Action.SESSIONS_ENDED, user_id, sessions=ended, name=user.name)
        return ended
