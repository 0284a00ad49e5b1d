"""Whoever asks by HTTP: a browser with its session, or a program with its token."""

import hmac
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission, Role, token_actor, user_actor
from uvarovite.services.accounts.passwords import hash_secret
from uvarovite.store.accounts.sessions import session_with_user
from uvarovite.store.accounts.tokens import token_with_user
from uvarovite.store.asking import asking as asking
from uvarovite.store.database import Database
from uvarovite.store.tables import ApiToken, User, UserSession


@dataclass(frozen=True, slots=True, kw_only=True)
class Asker:
    """`session_id` and `csrf_token` are None for a program: what a browser sends by itself is no danger to it."""

    actor: Actor
    session_id: int | None = None
    csrf_token: str | None = None

    def means_it(self, csrf_token: str | None) -> bool:
        """May a change be believed? A session's carries its CSRF token."""
        return self.csrf_token is None or hmac.compare_digest(self.csrf_token.encode(), (csrf_token or "").encode())


def actor_of(user: User) -> Actor:
    """A stored user as who does things."""
    assert user.id is not None
    return user_actor(user_id=user.id, name=user.name, email=user.email, role=Role(user.role))


def asker_by_session(session: UserSession, user: User) -> Asker:
    """A browser."""
    return Asker(actor=actor_of(user), session_id=session.id, csrf_token=session.csrf_token)


def _asker_by_token(token: ApiToken, user: User) -> Asker:
    assert token.id is not None
    assert user.id is not None
    known = {str(one) for one in Permission}
    return Asker(
        actor=token_actor(
            token_id=token.id,
            name=f"{token.name} ({user.name})",
            user_id=user.id,
            email=user.email,
            role=Role(user.role),
            scopes=frozenset(Permission(one) for one in token.scopes if one in known),
        )
    )


def who_is_it(database: Database, *, cookie: str | None, bearer: str | None, now: datetime) -> Asker | None:
    """Who is behind a request, or None. A token counts before a cookie: who sends one means it."""
    with database.transaction() as tx:
        if bearer is not None:
            by_token = token_with_user(tx, hash_secret(bearer), now)
            return _asker_by_token(*by_token) if by_token else None
        by_session = session_with_user(tx, hash_secret(cookie), now) if cookie else None
        return asker_by_session(*by_session) if by_session else None
