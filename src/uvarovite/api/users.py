"""Who works here."""

from dataclasses import dataclass
from datetime import datetime

from fastapi import APIRouter, Depends

from uvarovite.api.context import ApiContext, Context, MayAccounts
from uvarovite.api.once import told_once
from uvarovite.api.schemas.accounts import Invite, RoleSave
from uvarovite.api.schemas.values import Id
from uvarovite.services.accounts import users
from uvarovite.services.accounts.users import Invitation, UserLine

router = APIRouter(prefix="/api/users", tags=["users"])


@dataclass(frozen=True, slots=True, kw_only=True)
class InvitationLink:
    """The link by which somebody chooses a password. It is told once."""

    user_id: int
    url: str
    expires_at: datetime


def _link(context: ApiContext, made: Invitation) -> InvitationLink:
    # What follows the # stays in the browser: no server and no proxy writes it down.
    return InvitationLink(
        user_id=made.user_id, url=f"{context.public_url}/join#{made.token}", expires_at=made.expires_at
    )


@router.get("")
def user_list(actor: MayAccounts, context: Context) -> list[UserLine]:
    """Everybody with an account."""
    return users.user_list(context.database, actor, context.clock())


@router.post("", dependencies=[Depends(told_once)])
def invite(body: Invite, actor: MayAccounts, context: Context) -> InvitationLink:
    """Make an account and the link for its owner."""
    made = users.invite(context.database, actor, email=body.email, name=body.name, role=body.role, now=context.clock())
    return _link(context, made)


@router.post("/{user_id}/link", dependencies=[Depends(told_once)])
def new_link(user_id: Id, actor: MayAccounts, context: Context) -> InvitationLink:
    """Another link by which somebody chooses a password."""
    return _link(context, users.new_link(context.database, actor, user_id, now=context.clock()))


@router.put("/{user_id}/role", status_code=204)
def change_role(user_id: Id, body: RoleSave, actor: MayAccounts, context: Context) -> None:
    """Give somebody another role; their sessions end."""
    users.change_role(context.database, actor, user_id, body.role)


@router.delete("/{user_id}/sessions")
def end_sessions(user_id: Id, actor: MayAccounts, context: Context) -> int:
    """Sign somebody out everywhere; how many browsers that were."""
    return users.end_sessions_of(context.database, actor, user_id)


@router.delete("/{user_id}", status_code=204)
def close_account(user_id: Id, actor: MayAccounts, context: Context) -> None:
    """Close an account; what its owner did keeps their name."""
    users.close_account(context.database, actor, user_id, now=context.clock())
