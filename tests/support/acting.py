"""Who does things in the tests."""

from uvarovite.core.accounts import SYSTEM, Actor, Role, user_actor


def acting(user_id: int | None, role: Role = Role.ADMINISTRATOR) -> Actor:
    """A user as an actor; the system for nobody."""
    if user_id is None:
        return SYSTEM
    return user_actor(user_id=user_id, name="Somebody", email="somebody@skarnmuseum.example", role=role)
