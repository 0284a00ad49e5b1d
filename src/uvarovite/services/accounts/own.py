"""One's own account: name, password, and the browsers that are signed in."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.passwords import hash_password, is_right
from uvarovite.services.accounts.permitted import needs, user_of
from uvarovite.services.accounts.signing_in import TRIES_PER_ACCOUNT_AND_ORIGIN, TRIES_WINDOW
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.store import tallies
from uvarovite.store.accounts import sessions as session_store
from uvarovite.store.accounts import users as store
from uvarovite.store.database import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionLine:
    """A browser that is signed in; `here` is the one that asks."""

    id: int
    origin: str
    agent: str
    created_at: datetime
    seen_at: datetime
    here: bool


@needs(Permission.OWN_ACCOUNT)
def session_list(database: Database, actor: Actor, *, here: int | None, now: datetime) -> list[SessionLine]:
    """The browsers in which one is signed in."""
    with database.transaction() as tx:
        return [
            SessionLine(
                id=row.id,
                origin=row.origin,
                agent=row.agent,
                created_at=row.created_at,
                seen_at=row.seen_at,
                here=row.id == here,
            )
            for row in session_store.session_lines(tx, user_of(actor), now)
        ]


@needs(Permission.OWN_ACCOUNT)
def end_own_session(database: Database, actor: Actor, session_id: int) -> None:
    """Sign one browser out; nothing happens when it is out already."""
    with database.transaction() as tx:
        session_store.end_session(tx, user_of(actor), session_id)


@needs(Permission.OWN_ACCOUNT)
def end_other_sessions(database: Database, actor: Actor, *, here: int | None) -> int:
    """Sign all other browsers out; how many there were."""
    with database.transaction() as tx:
        ended = session_store.end_sessions(tx, user_of(actor), but=here)
        audit(tx, actor, Action.SESSIONS_ENDED, user_of(actor), sessions=ended, name=actor.name)
        return ended


@needs(Permission.OWN_ACCOUNT)
def rename(database: Database, actor: Actor, name: str) -> None:
    """Change how one is called. Raises BadInput for no name."""
    if not name.strip():
        raise BadInput("blank", "Write how you are called.")
    with database.transaction() as tx:
        user = store.lock_user(tx, user_of(actor))
        if user is None:
            raise NotFound("account")
        user.name = name.strip()
        tx.add(user)


@needs(Permission.OWN_ACCOUNT)
def change_password(database: Database, actor: Actor, *, old: str, new: str, here: int | None, now: datetime) -> int:
    """Change one's own password; the other browsers are signed out, and how many they were.

    Raises BadInput for a wrong old or a short new one, ServiceRefusal after too many tries: who finds a browser open
    must not guess the password in it.
    """
    user_id = user_of(actor)
    with database.transaction() as tx:
        tries = tallies.count_up(tx, [f"password of {user_id}"], now, TRIES_WINDOW)
        user = store.lock_user(tx, user_id)
        known = user.password_hash if user else None
    if tries[f"password of {user_id}"] > TRIES_PER_ACCOUNT_AND_ORIGIN:
        raise ServiceRefusal("too_many", "Too many tries. Wait a quarter of an hour, then try again.")
    if not is_right(known, old):
        raise BadInput("wrong_password", "This is not your password. Type the one that you sign in with.", field="old")
    hashed = hash_password(new)
    with database.transaction() as tx:
        user = store.lock_user(tx, user_id)
        if user is None or user.password_hash != known:
            raise ServiceRefusal("changed", "Your password was changed elsewhere meanwhile. Sign in again.")
        user.password_hash = hashed
        tx.add(user)
        tallies.forget(tx, f"password of {user_id}")
        ended = session_store.end_sessions(tx, user_id, but=here)
        audit(tx, actor, Action.PASSWORD_CHANGED, user_id, sessions=ended)
        return ended
