"""One's own account."""

from fastapi import APIRouter

from uvarovite.api.context import Context, MayOwnAccount, OwnBrowser
from uvarovite.api.schemas.accounts import NameSave, PasswordSave
from uvarovite.api.schemas.values import Id
from uvarovite.services.accounts import own
from uvarovite.services.accounts.own import SessionLine

router = APIRouter(prefix="/api/own", tags=["own account"])


@router.put("/name", status_code=204)
def rename(body: NameSave, actor: MayOwnAccount, context: Context) -> None:
    """Change how one is called."""
    own.rename(context.database, actor, body.name)


@router.put("/password")
async def change_password(body: PasswordSave, asker: OwnBrowser, context: Context) -> int:
    """Change one's own password; how many other browsers were signed out by it."""
    return await context.sign_ins.run(
        own.change_password,
        context.database,
        asker.actor,
        old=body.old,
        new=body.new,
        here=asker.session_id,
        now=context.clock(),
    )


@router.get("/sessions")
def session_list(asker: OwnBrowser, context: Context) -> list[SessionLine]:
    """The browsers in which one is signed in."""
    return own.session_list(context.database, asker.actor, here=asker.session_id, now=context.clock())


@router.delete("/sessions")
def end_other_sessions(asker: OwnBrowser, context: Context) -> int:
    """Sign all other browsers out; how many there were."""
    return own.end_other_sessions(context.database, asker.actor, here=asker.session_id)


@router.delete("/sessions/{session_id}", status_code=204)
def end_session(session_id: Id, actor: MayOwnAccount, context: Context) -> None:
    """Sign one browser out."""
    own.end_own_session(context.database, actor, session_id)
