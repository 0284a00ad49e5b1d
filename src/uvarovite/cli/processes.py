"""The running processes: serve, worker, rehearsal, demo."""

import socket
from pathlib import Path

import typer

from uvarovite.bootstrap import (
    DatabaseUnreachable,
    port_is_free,
    prepare_roles,
    run_rehearsal,
    run_worker,
    serve_web,
)
from uvarovite.cli.app import FAILED, WRONG, app, end
from uvarovite.cli.demo import run_demo
from uvarovite.settings import Settings, load_settings


def _need_port(settings: Settings, port: int, variable: str, kind: socket.SocketKind = socket.SOCK_STREAM) -> None:
    if not port_is_free(settings.host, port, kind):
        end(FAILED, f"Port {port} on {settings.host} is taken. Stop what uses it, or set {variable} to another.")


@app.command()
def serve() -> None:
    """The web server: the application, and the pages for recipients."""
    settings = load_settings()
    _need_port(settings, settings.web_port, "UVAROVITE_WEB_PORT")
    try:
        settings.secret()
        serve_web(settings)
    except (DatabaseUnreachable, ValueError) as fault:
        end(FAILED, str(fault))


@app.command()
def prepare_database() -> None:
    """Make the database's roles, once, as its superuser; see docs/operations.md."""
    try:
        prepare_roles(load_settings())
    except (DatabaseUnreachable, ValueError) as fault:
        end(WRONG, str(fault))
    print("The database is prepared.")


@app.command()
def worker() -> None:
    """Send what is due; any number of workers may run, on any machine that reaches the database."""
    try:
        run_worker(load_settings())
    except (DatabaseUnreachable, ValueError) as fault:
        end(FAILED, str(fault))


@app.command()
def rehearsal(
    directory: Path = typer.Option(Path(".uvarovite/rehearsal"), help="Where captured messages are kept."),
    seed: int = typer.Option(8040, help="The same seed gives the same world."),
    speed: float = typer.Option(60.0, min=0.01, help="How much faster than life."),
) -> None:
    """The simulated world: providers, people, and their inboxes."""
    settings = load_settings()
    _need_port(settings, settings.smtp_port, "UVAROVITE_SMTP_PORT")
    _need_port(settings, settings.inbox_port, "UVAROVITE_INBOX_PORT")
    _need_port(settings, settings.names_port, "UVAROVITE_NAMES_PORT", socket.SOCK_DGRAM)
    run_rehearsal(settings, directory, seed=seed, speed=speed)


@app.command()
def demo(
    directory: Path = typer.Option(Path(".uvarovite"), help="Where the demo keeps its data."),
    contacts: int = typer.Option(0, min=0, max=1_000_000, help="How many contacts instead of the museum's 2,400."),
    reset: bool = typer.Option(False, help="Throw the demo's data away and begin anew."),
    speed: float = typer.Option(60.0, min=0.01, help="How much faster than life the simulated people are."),
) -> None:
    """Everything at once on loopback, with a PostgreSQL of its own and the museum's data; Ctrl C ends it."""
    run_demo(directory.resolve(), people=contacts, reset=reset, speed=speed)
