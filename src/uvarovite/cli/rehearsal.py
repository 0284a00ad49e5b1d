"""The command that runs the simulated world."""

import socket
from pathlib import Path

import typer

from uvarovite.bootstrap.rehearsal import run_rehearsal
from uvarovite.cli.app import app
from uvarovite.cli.ports import need_port
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.settings import load_settings


@app.command()
def rehearsal(
    directory: Path = typer.Option(Path(".uvarovite/rehearsal"), help="Where captured messages are kept."),
    seed: int = typer.Option(8040, help="The same seed gives the same world."),
    speed: float = typer.Option(60.0, min=0.01, help="How much faster than life."),
    scenario: str = typer.Option("ordinary", help=f"How it begins: {', '.join(SCENARIOS)}."),
) -> None:
    """The simulated world: providers, people, and their inboxes."""
    if scenario not in SCENARIOS:
        raise typer.BadParameter(f"there is no scenario “{scenario}”; there are {', '.join(SCENARIOS)}")
    settings = load_settings()
    need_port(settings, settings.smtp_port, "UVAROVITE_SMTP_PORT")
    need_port(settings, settings.inbox_port, "UVAROVITE_INBOX_PORT")
    need_port(settings, settings.names_port, "UVAROVITE_NAMES_PORT", socket.SOCK_DGRAM)
    run_rehearsal(settings, directory, seed=seed, speed=speed, scenario=scenario)
