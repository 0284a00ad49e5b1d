"""The command that runs a worker."""

from uvarovite.bootstrap.database import DatabaseUnreachable
from uvarovite.bootstrap.worker import run_worker
from uvarovite.cli.app import FAILED, app, end
from uvarovite.settings import load_settings


@app.command()
def worker() -> None:
    """Send what is due; any number of workers may run, on any machine that reaches the database."""
    try:
        run_worker(load_settings())
    except (DatabaseUnreachable, ValueError) as fault:
        end(FAILED, str(fault))
