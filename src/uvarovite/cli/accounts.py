"""Commands about who works here: add-user, invite, token. Whoever reaches the machine may do all of it."""

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.cli.app import app, show
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import PERMISSIONS, SYSTEM, Permission, Role
from uvarovite.services.accounts.tokens import make_token_for
from uvarovite.services.accounts.users import create_user
from uvarovite.services.accounts.users import invite as invite_user

_MAY = "What it may do, once for each: " + ", ".join(row.permission for row in PERMISSIONS.values() if row.for_tokens)


@app.command()
def add_user(
    email: str,
    name: str = typer.Option("", help="How they are called on screen."),
    role: Role = typer.Option(Role.ADMINISTRATOR, help="What they do here."),
    password: str = typer.Option(..., prompt=True, hide_input=True, confirmation_prompt=True),
) -> None:
    """Make an account with a password."""
    with installation() as (_, database):
        create_user(database, SYSTEM, email=email, name=name, password=password, role=role, now=system_clock())
    print(f"{email} can sign in now.")


@app.command()
def invite(
    email: str,
    name: str = typer.Option("", help="How they are called on screen."),
    role: Role = typer.Option(Role.ADMINISTRATOR, help="What they do here."),
) -> None:
    """Make an account, and print the link by which its owner chooses a password."""
    with installation() as (settings, database):
        made = invite_user(database, SYSTEM, email=email, name=name, role=role, now=system_clock())
        print(f"{settings.base_url()}/join#{made.token}")


@app.command()
def token(
    email: str,
    name: str = typer.Option(..., help="What it is for."),
    may: list[Permission] = typer.Option(..., help=_MAY),
    days: int | None = typer.Option(None, help="For how many days it works; else until it is revoked."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """Make a token with which a program does things for a user; it is printed this once."""
    with installation() as (_, database):
        made = make_token_for(
            database, SYSTEM, email=email, name=name, scopes=frozenset(may), days=days, now=system_clock()
        )
    show({"id": made.id, "token": made.token}, as_json=as_json, words=made.token)
