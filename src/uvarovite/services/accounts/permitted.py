"""What a service needs of whoever asks for it. It is looked up in the core's table, before anything is loaded."""

import functools
from collections.abc import Callable
from typing import Any, Concatenate, ParamSpec, TypeVar, cast

from uvarovite.core.accounts import PERMISSIONS, ROLES, Actor, ActorKind, Permission
from uvarovite.services.errors import ServiceRefusal
from uvarovite.store.database import Database

_Rest = ParamSpec("_Rest")
_Result = TypeVar("_Result")
Service = Callable[Concatenate[Database, Actor, _Rest], _Result]

_LABELS = {row.role: row.label for row in ROLES}


class NotAllowed(ServiceRefusal):
    """Somebody may not do this."""

    def __init__(self, actor: Actor, permission: Permission) -> None:
        row = PERMISSIONS[permission]
        if actor.kind is ActorKind.TOKEN:
            message = f"This token may not {row.words}. It was not given that, or its owner may not do it any more."
        else:
            message = f"You may not {row.words}. That takes the role {_LABELS[row.role]}; ask an administrator for it."
        super().__init__("not_allowed", message)


def require(actor: Actor, permission: Permission) -> None:
    """Raises NotAllowed."""
    if not actor.may(permission):
        raise NotAllowed(actor, permission)


def user_of(actor: Actor) -> int:
    """The user who does it, or for whom a program does it. Raises ServiceRefusal: the system has no drafts or sessions."""
    if actor.user_id is None:
        raise ServiceRefusal("no_user", "This belongs to a user, and nobody is signed in.")
    return actor.user_id


def needs(permission: Permission) -> Callable[[Service[_Rest, _Result]], Service[_Rest, _Result]]:
    """A service that only they may use who have this permission; others meet NotAllowed."""

    def guarded(service: Service[_Rest, _Result]) -> Service[_Rest, _Result]:
        @functools.wraps(service)
        def asked(database: Database, actor: Actor, *rest: _Rest.args, **named: _Rest.kwargs) -> _Result:
            require(actor, permission)
            return service(database, actor, *rest, **named)

        cast(Any, asked).permission = permission
        return cast(Service[_Rest, _Result], asked)

    return guarded
