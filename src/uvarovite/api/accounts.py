"""Signing in and out, and coming in by a link."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from uvarovite.api.context import ApiContext, Context, OwnBrowser
from uvarovite.api.guard import COOKIE
from uvarovite.api.schemas.accounts import InvitationAccept, LinkToken, PasswordSignIn
from uvarovite.core.accounts import Permission, Role
from uvarovite.core.values import origin_key
from uvarovite.services.accounts import own, signing_in
from uvarovite.services.accounts.asker import Asker
from uvarovite.services.accounts.signing_in import SESSION_LASTS, Browser, Invited, SignedIn

router = APIRouter(prefix="/api/session", tags=["session"])


@dataclass(frozen=True, slots=True, kw_only=True)
class Me:
    """Who is signed in and what they may do; `csrf_token` goes into a header of every change."""

    name: str
    email: str
    role: Role
    permissions: list[Permission]
    csrf_token: str
    inbox_url: str | None


def browser_of(request: Request) -> Browser:
    """Where a request comes from, and in what."""
    return Browser(
        origin=origin_key(request.client.host if request.client else None), agent=request.headers.get("user-agent", "")
    )


def _welcome(response: Response, context: ApiContext, come: SignedIn) -> Me:
    response.set_cookie(
        COOKIE,
        come.token,
        max_age=int(SESSION_LASTS.total_seconds()),
        httponly=True,
        samesite="lax",
        secure=context.public_url.startswith("https:"),
        path="/",
    )
    return _me(context, come.asker)


def _me(context: ApiContext, asker: Asker) -> Me:
    actor = asker.actor
    return Me(
        name=actor.name,
        email=actor.email,
        role=actor.role or Role.READER,
        permissions=sorted(actor.permissions),
        csrf_token=asker.csrf_token or "",
        inbox_url=context.inbox_url,
    )


@router.post("")
async def sign_in(body: PasswordSignIn, request: Request, response: Response, context: Context) -> Me:
    """Sign in by password."""
    come = await context.sign_ins.run(
        signing_in.sign_in,
        context.database,
        email=body.email,
        password=body.password,
        browser=browser_of(request),
        now=context.clock(),
    )
    return _welcome(response, context, come)


@router.post("/link")
def sign_in_by_link(body: LinkToken, request: Request, response: Response, context: Context) -> Me:
    """Sign in by a one-time link."""
    come = signing_in.sign_in_by_link(
        context.database, token=body.token, browser=browser_of(request), now=context.clock()
    )
    return _welcome(response, context, come)


@router.post("/invitation/look")
def look_at_invitation(body: LinkToken, context: Context) -> Invited:
    """Whose link it is by which a password is chosen; it works still afterwards."""
    return signing_in.look_at_invitation(context.database, token=body.token, now=context.clock())


@router.post("/invitation")
async def accept_invitation(body: InvitationAccept, request: Request, response: Response, context: Context) -> Me:
    """Choose a password by a link, and sign in."""
    come = await context.sign_ins.run(
        signing_in.accept_invitation,
        context.database,
        token=body.token,
        name=body.name,
        password=body.password,
        browser=browser_of(request),
        now=context.clock(),
    )
    return _welcome(response, context, come)


@router.get("")
def me(asker: OwnBrowser, context: Context) -> Me:
    """Who is signed in."""
    return _me(context, asker)


@router.delete("", status_code=204)
def sign_out(asker: OwnBrowser, response: Response, context: Context) -> None:
    """Sign out."""
    if asker.session_id is not None:
        own.end_own_session(context.database, asker.actor, asker.session_id)
    response.delete_cookie(COOKIE, path="/")
