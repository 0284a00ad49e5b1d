"""Tokens for programs, and what there is to give them."""

from dataclasses import dataclass

from fastapi import APIRouter, Depends

from uvarovite.api.context import Context, MayOwnAccount
from uvarovite.api.once import told_once
from uvarovite.api.schemas.accounts import TokenMake
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import PERMISSIONS, ROLES, Permission, PermissionRow, RoleRow
from uvarovite.services.accounts import tokens
from uvarovite.services.accounts.tokens import NewToken, TokenLine

router = APIRouter(prefix="/api", tags=["tokens"])


@dataclass(frozen=True, slots=True, kw_only=True)
class PermissionTable:
    """Who may do what: the roles, and each permission with the least role that has it."""

    roles: list[RoleRow]
    permissions: list[PermissionRow]


@router.get("/permissions")
def permission_table(actor: MayOwnAccount) -> PermissionTable:
    """Who may do what."""
    return PermissionTable(roles=list(ROLES), permissions=list(PERMISSIONS.values()))


@router.get("/tokens")
def token_list(actor: MayOwnAccount, context: Context) -> list[TokenLine]:
    """One's own tokens; an administrator sees everybody's."""
    return tokens.token_list(context.database, actor)


@router.post("/tokens", dependencies=[Depends(told_once)])
def make_token(body: TokenMake, actor: MayOwnAccount, context: Context) -> NewToken:
    """Make a token; it is told this once."""
    return tokens.make_token(
        context.database,
        actor,
        name=body.name,
        scopes=frozenset(Permission(one) for one in body.scopes),
        days=body.days,
        now=context.clock(),
    )


@router.delete("/tokens/{token_id}", status_code=204)
def revoke_token(token_id: Id, actor: MayOwnAccount, context: Context) -> None:
    """A token does not work any more."""
    tokens.revoke_token(context.database, actor, token_id, now=context.clock())
