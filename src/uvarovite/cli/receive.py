"""The command that takes mail in."""

from uvarovite.bootstrap.database import DatabaseUnreachable
from uvarovite.bootstrap.receiving import run_receiver
from uvarovite.cli.app import FAILED, app, end
from uvarovite.cli.ports import need_port
from uvarovite.settings import load_settings


@app.command()
def receive() -> None:
    """Take in mail that comes back: reports, replies, and requests to leave; workers act on it."""
    settings = load_settings()
    need_port(settings, settings.inbound_port, "UVAROVITE_INBOUND_PORT")
    try:
        run_receiver(settings)
    except DatabaseUnreachable as fault:
        end(FAILED, str(fault))
