"""Who does it: a user in their role, a program by its token, or the installation itself."""

from dataclasses import dataclass, field
from enum import StrEnum

from uvarovite.core.accounts.permissions import PERMISSIONS, Permission, Role, permissions_of


class ActorKind(StrEnum):
    """What kind of somebody it is."""

    USER = "user"
    TOKEN = "token"  # noqa: S105 - a kind, no secret
    SYSTEM = "system"


@dataclass(frozen=True, slots=True, kw_only=True)
class Actor:
    """Somebody, and what they may do. `user_id` is None for the system; a token acts for the user who made it."""

    kind: ActorKind
    name: str
    email: str = ""
    user_id: int | None = None
    token_id: int | None = None
    role: Role | None = None
    permissions: frozenset[Permission] = field(default_factory=frozenset)

    def may(self, permission: Permission) -> bool:
        """Does the permission table allow it?"""
        return permission in self.permissions


# Commands at the machine, the workers, and what happens by itself. Whoever reaches the machine has everything anyway.
SYSTEM = Actor(kind=ActorKind.SYSTEM, name="Uvarovite", permissions=frozenset(Permission))


def user_actor(*, user_id: int, name: str, email: str, role: Role) -> Actor:
    """A user, with what their role has now."""
    return Actor(
        kind=ActorKind.USER, name=name, email=email, user_id=user_id, role=role, permissions=permissions_of(role)
    )


def token_actor(
    *, token_id: int, name: str, user_id: int, email: str, role: Role, scopes: frozenset[Permission]
) -> Actor:
    """A token: what it was given, as far as its user has it still and a program may have it at all."""
    lendable = frozenset(row.permission for row in PERMISSIONS.values() if row.for_tokens)
    return Actor(
        kind=ActorKind.TOKEN,
        name=name,
        email=email,
        user_id=user_id,
        token_id=token_id,
        role=role,
        permissions=scopes & permissions_of(role) & lendable,
    )
