"""The command that makes the database's roles."""

from uvarovite.bootstrap.database import DatabaseUnreachable, prepare_roles
from uvarovite.cli.app import WRONG, app, end
from uvarovite.settings import load_settings


@app.command()
def prepare_database() -> None:
    """Make the database's roles, once, as its superuser; see docs/operations.md."""
    try:
        prepare_roles(load_settings())
    except (DatabaseUnreachable, ValueError) as fault:
        end(WRONG, str(fault))
    print("The database is prepared.")
