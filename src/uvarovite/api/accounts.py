"""Signing in and out."""

from dataclasses import dataclass

from fastapi import APIRouter, Request, Response

from uvarovite.api.context import Context, User
from uvarovite.api.guard import COOKIE
from uvarovite.api.schemas.accounts import LinkSignIn, PasswordSignIn
from uvarovite.core.values import origin_key
from uvarovite.services.accounts import signing_in
from uvarovite.services.accounts.signing_in import SESSION_LASTS, SignedIn
from uvarovite.services.bounded import TooBusyError
from uvarovite.services.errors import ServiceRefusal

router = APIRouter(prefix="/api/session", tags=["session"])


@dataclass(frozen=True, slots=True, kw_only=True)
class Me:
    """Who is signed in; `csrf_token` goes into a header of every change."""

    name: str
    email: str
    csrf_token: str
    inbox_url: str | None


def _welcome(response: Response, context: Context, user: SignedIn) -> Me:
    response.set_cookie(
        COOKIE,
        user.token,
        max_age=int(SESSION_LASTS.total_seconds()),
        httponly=True,
        samesite="lax",
        secure=context.public_url.startswith("https:"),
        path="/",
    )
    return _me(context, user)


def _me(context: Context, user: SignedIn) -> Me:
    return Me(name=user.name, email=user.email, csrf_token=user.csrf_token, inbox_url=context.inbox_url)


@router.post("")
async def sign_in(body: PasswordSignIn, request: Request, response: Response, context: Context) -> Me:
    """Sign in by password."""
    try:
        user = await context.sign_ins.run(
            signing_in.sign_in,
            context.database,
            email=body.email,
            password=body.password,
            origin=origin_key(request.client.host if request.client else None),
            now=context.clock(),
        )
    except TooBusyError as fault:
        raise ServiceRefusal("too_many", "Many people are signing in just now. Try again in a moment.") from fault
    return _welcome(response, context, user)


@router.post("/link")
def sign_in_by_link(body: LinkSignIn, response: Response, context: Context) -> Me:
    """Sign in by a one-time link."""
    return _welcome(
        response, context, signing_in.sign_in_by_link(context.database, token=body.token, now=context.clock())
    )


@router.get("")
def me(user: User, context: Context) -> Me:
    """Who is signed in."""
    return _me(context, user)


@router.delete("", status_code=204)
def sign_out(user: User, response: Response, context: Context) -> None:
    """Sign out."""
    signing_in.sign_out(context.database, token=user.token)
    response.delete_cookie(COOKIE, path="/")
