"""People and programs that work here, and what they may do."""

from uvarovite.core.accounts.actor import SYSTEM, Actor, ActorKind, token_actor, user_actor
from uvarovite.core.accounts.audit import ACTIONS, AREA_LABELS, Action, AuditArea, actions_said, audit_words
from uvarovite.core.accounts.permissions import (
    PERMISSIONS,
    ROLES,
    Permission,
    PermissionRow,
    Role,
    RoleRow,
    permissions_of,
)

__all__ = [
    "ACTIONS",
    "AREA_LABELS",
    "PERMISSIONS",
    "ROLES",
    "SYSTEM",
    "Action",
    "Actor",
    "ActorKind",
    "AuditArea",
    "Permission",
    "PermissionRow",
    "Role",
    "RoleRow",
    "actions_said",
    "audit_words",
    "permissions_of",
    "token_actor",
    "user_actor",
]
