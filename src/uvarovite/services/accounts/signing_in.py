"""Signing in: passwords by argon2id (RFC 9106), one-time links, sessions, and a limit on failed tries."""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError

from uvarovite.services.errors import BadInput, ServiceRefusal
from uvarovite.services.organisation.facts import require_address
from uvarovite.store import accounts as store
from uvarovite.store import tallies
from uvarovite.store.asking import asking as asking
from uvarovite.store.database import Database
from uvarovite.store.tables import User, UserSession

SESSION_LASTS = timedelta(hours=12)
LINK_LASTS = timedelta(hours=24)
SHORTEST_PASSWORD = 10
# Somebody who mistypes gets there; somebody who guesses does not.
TRIES_PER_ACCOUNT_AND_ORIGIN = 6
TRIES_PER_ORIGIN = 30
TRIES_PER_ACCOUNT = 60
TRIES_WINDOW = timedelta(minutes=15)
ORIGIN_KNOWN_FOR = timedelta(days=90)

_hasher = PasswordHasher()
# Verified against when the account is unknown, so that both answers take the same time.
_NOBODY = _hasher.hash(secrets.token_hex(16))


@dataclass(frozen=True, slots=True, kw_only=True)
class SignedIn:
    """A session: `token` goes into the cookie, `csrf_token` into a header of every change."""

    token: str
    csrf_token: str
    user_id: int
    name: str
    email: str


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def create_user(database: Database, *, email: str, name: str, password: str, now: datetime) -> int:
    """Make an account. Raises BadInput for an address in use, or a short password."""
    if len(password) < SHORTEST_PASSWORD:
        raise BadInput("short_password", f"A password has at least {SHORTEST_PASSWORD} characters.")
    address = require_address(email).lower()
    with database.transaction() as tx:
        if store.user_by_email(tx, address):
            raise BadInput("taken", f"There is an account for {address} already.")
        user = User(email=address, name=name.strip() or address, password_hash=_hasher.hash(password), created_at=now)
        tx.add(user)
        tx.flush()
        assert user.id is not None
        return user.id


def sign_in(database: Database, *, email: str, password: str, origin: str, now: datetime) -> SignedIn:
    """Sign in by password. Raises ServiceRefusal; the same one for a wrong name and a wrong password.

    A try is counted before the password is looked at, so that many at once are as many. What strangers try elsewhere
    does not shut out somebody who comes from where they have signed in before.
    """
    account = email.strip().lower()
    here, everywhere, from_here = f"sign-in {account} {origin}", f"sign-in {account}", f"sign-in from {origin}"
    with database.transaction() as tx:
        tries = tallies.count_up(tx, [here, everywhere, from_here], now, TRIES_WINDOW)
        known = store.is_known_origin(tx, account, origin)
        user = store.user_by_email(tx, account)
    strange = tries[everywhere] > TRIES_PER_ACCOUNT or tries[from_here] > TRIES_PER_ORIGIN
    if tries[here] > TRIES_PER_ACCOUNT_AND_ORIGIN or (strange and not known):
        raise ServiceRefusal("too_many", "Too many tries. Wait a quarter of an hour, then try again.")
    try:
        right = _hasher.verify(user.password_hash if user else _NOBODY, password) and user is not None
    except (VerifyMismatchError, InvalidHashError):
        right = False
    if not right or user is None or user.id is None:
        raise ServiceRefusal("wrong_log_in", "Address and password do not go together.")
    with database.transaction() as tx:
        tallies.count_down(tx, [here, everywhere, from_here])
        tallies.forget(tx, here)
        store.remember_origin(tx, user.id, origin, now)
        session = _session(user, now)
        tx.add(session[1])
        return session[0]


def _session(user: User, now: datetime) -> tuple[SignedIn, UserSession]:
    token, csrf = secrets.token_urlsafe(32), secrets.token_urlsafe(24)
    assert user.id is not None
    row = UserSession(
        token_hash=_hash(token), user_id=user.id, csrf_token=csrf, created_at=now, expires_at=now + SESSION_LASTS
    )
    return SignedIn(token=token, csrf_token=csrf, user_id=user.id, name=user.name, email=user.email), row


def make_link(database: Database, *, email: str, now: datetime) -> str:
    """A token that signs a user in once within a day. Raises BadInput for an unknown user."""
    token = secrets.token_urlsafe(24)
    with database.transaction() as tx:
        user = store.user_by_email(tx, email)
        if user is None or user.id is None:
            raise BadInput("unknown_user", f"There is no account for {email}.")
        store.add_link(tx, _hash(token), user.id, now + LINK_LASTS)
    return token


def sign_in_by_link(database: Database, *, token: str, now: datetime) -> SignedIn:
    """Sign in by a one-time link. Raises ServiceRefusal when it was used or is too old."""
    with database.transaction() as tx:
        user_id = store.use_link(tx, _hash(token), now)
        user = tx.get(User, user_id) if user_id else None
        if user is None:
            raise ServiceRefusal(
                "used_link",
                "This link was used already or is older than a day. Sign in by password, or ask for a new one.",
            )
        session = _session(user, now)
        tx.add(session[1])
        return session[0]


def who_is_it(database: Database, *, token: str, now: datetime) -> SignedIn | None:
    """The session behind a cookie, or None when there is none in force."""
    with database.transaction() as tx:
        found = store.session_with_user(tx, _hash(token), now)
        if found is None:
            return None
        session, user = found
        return SignedIn(
            token=token, csrf_token=session.csrf_token, user_id=session.user_id, name=user.name, email=user.email
        )


def sign_out(database: Database, *, token: str) -> None:
    """End a session."""
    with database.transaction() as tx:
        store.end_session(tx, _hash(token))


def purge_sign_ins(database: Database, now: datetime) -> int:
    """Delete what of signing in has ended: sessions, links, counts, origins; how many rows."""
    with database.transaction() as tx:
        return store.purge(tx, now, now - ORIGIN_KNOWN_FOR) + tallies.forget_old(tx, now - timedelta(days=1))
