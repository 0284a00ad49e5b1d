"""Signing in: by password, by a one-time link, by an invitation; and a limit on failed tries."""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from uvarovite.core.accounts import Action
from uvarovite.services.accounts.asker import Asker, actor_of, asker_by_session
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.passwords import hash_password, hash_secret, is_right
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store import tallies
from uvarovite.store.accounts import sessions as session_store
from uvarovite.store.accounts import users as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import LinkPurpose, User, UserSession

SESSION_LASTS = timedelta(hours=12)
# Somebody who mistypes gets there; somebody who guesses does not.
TRIES_PER_ACCOUNT_AND_ORIGIN = 6
TRIES_PER_ORIGIN = 30
TRIES_PER_ACCOUNT = 60
TRIES_WINDOW = timedelta(minutes=15)
ORIGIN_KNOWN_FOR = timedelta(days=90)
_LONGEST_AGENT = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedIn:
    """A session that has just begun: `token` goes into the cookie and is kept nowhere."""

    token: str
    asker: Asker


@dataclass(frozen=True, slots=True, kw_only=True)
class Browser:
    """Where somebody signs in from: the key of their address, and what their browser calls itself."""

    origin: str
    agent: str


def _used_link() -> ServiceRefusal:
    return ServiceRefusal(
        "used_link", "This link was used already or is too old. Sign in by password, or ask for a new one."
    )


def _too_many() -> ServiceRefusal:
    return ServiceRefusal("too_many", "Too many tries. Wait a quarter of an hour, then try again.")


def sign_in(database: Database, *, email: str, password: str, browser: Browser, now: datetime) -> SignedIn:
    """Sign in by password. Raises ServiceRefusal; the same one for a wrong name and a wrong password.

    A try is counted before the password is looked at, so that many at once are as many. What strangers try elsewhere
    does not shut out somebody who comes from where they have signed in before.
    """
    account, origin = email.strip().lower(), browser.origin
    here, everywhere, from_here = f"sign-in {account} {origin}", f"sign-in {account}", f"sign-in from {origin}"
    with database.transaction() as tx:
        tries = tallies.count_up(tx, [here, everywhere, from_here], now, TRIES_WINDOW)
        known = session_store.is_known_origin(tx, account, origin)
        user = store.user_by_email(tx, account)
    strange = tries[everywhere] > TRIES_PER_ACCOUNT or tries[from_here] > TRIES_PER_ORIGIN
    if tries[here] > TRIES_PER_ACCOUNT_AND_ORIGIN or (strange and not known):
        raise _too_many()
    known_hash = user.password_hash if user and user.left_at is None else None
    right = is_right(known_hash, password)
    with database.transaction() as tx:
        # What has changed while the password was looked at counts: nobody comes in who has left, or by an old password.
        user = store.lock_user(tx, user.id) if user and user.id else None
        if user is None or not right or user.password_hash != known_hash:
            if user is not None:
                audit(tx, actor_of(user), Action.SIGN_IN_FAILED, origin=origin)
        else:
            tallies.count_down(tx, [here, everywhere, from_here])
            tallies.forget(tx, here)
            session_store.remember_origin(tx, user.id or 0, origin, now)
            return _begin_session(tx, user, browser, now)
    raise ServiceRefusal("wrong_log_in", "Address and password do not go together.")


def _begin_session(tx: Transaction, user: User, browser: Browser, now: datetime) -> SignedIn:
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    assert user.id is not None
    session = UserSession(
        token_hash=hash_secret(token),
        user_id=user.id,
        csrf_token=csrf,
        origin=browser.origin,
        agent=browser.agent[:_LONGEST_AGENT],
        created_at=now,
        seen_at=now,
        expires_at=now + SESSION_LASTS,
    )
    user.seen_at = now
    tx.add_all([session, user])
    tx.flush()
    audit(tx, actor_of(user), Action.SIGNED_IN, origin=browser.origin)
    return SignedIn(token=token, asker=asker_by_session(session, user))


def sign_in_by_link(database: Database, *, token: str, browser: Browser, now: datetime) -> SignedIn:
    """Sign in by a one-time link. Raises ServiceRefusal when it was used or is too old."""
    with database.transaction() as tx:
        user = store.use_link(tx, hash_secret(token), LinkPurpose.SIGN_IN, now)
        if user is None:
            raise _used_link()
        return _begin_session(tx, user, browser, now)


@dataclass(frozen=True, slots=True, kw_only=True)
class Invited:
    """Whose invitation it is; `returning` is somebody who had a password before and chooses another."""

    email: str
    name: str
    returning: bool


def look_at_invitation(database: Database, *, token: str, now: datetime) -> Invited:
    """Whose a link is by which a password is chosen. Raises ServiceRefusal when it was used or is too old."""
    with database.transaction() as tx:
        user = store.user_of_link(tx, hash_secret(token), LinkPurpose.PASSWORD, now)
        if user is None:
            raise _used_link()
        return Invited(email=user.email, name=user.name, returning=user.password_hash is not None)


def accept_invitation(
    database: Database, *, token: str, name: str, password: str, browser: Browser, now: datetime
) -> SignedIn:
    """Choose a password by a link, and come in; other sessions end. Raises BadInput, ServiceRefusal."""
    look_at_invitation(database, token=token, now=now)  # a stranger without a link costs no hashing
    hashed = hash_password(password)
    with database.transaction() as tx:
        user = store.use_link(tx, hash_secret(token), LinkPurpose.PASSWORD, now)
        if user is None or user.id is None:
            raise _used_link()
        user.password_hash, user.name = hashed, name.strip() or user.name
        session_store.end_sessions(tx, user.id)
        session_store.remember_origin(tx, user.id, browser.origin, now)
        audit(tx, actor_of(user), Action.USER_JOINED, origin=browser.origin)
        return _begin_session(tx, user, browser, now)


def purge_sign_ins(database: Database, now: datetime) -> int:
    """Delete what of signing in has ended: sessions, links, counts, origins; how many rows."""
    with database.transaction() as tx:
        return session_store.purge(tx, now, now - ORIGIN_KNOWN_FOR) + tallies.forget_old(tx, now - timedelta(days=1))
