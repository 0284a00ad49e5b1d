"""The installation that a command is about: its settings and its database."""

from collections.abc import Iterator
from contextlib import contextmanager

from uvarovite.bootstrap.database import Database, DatabaseUnreachable, open_database
from uvarovite.cli.app import FAILED, REFUSED, WRONG, end
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.settings import Settings, load_settings


@contextmanager
def installation() -> Iterator[tuple[Settings, Database]]:
    """The settings and an open database; what services refuse becomes a message and an exit code."""
    settings = load_settings()
    try:
        database = open_database(settings)
    except DatabaseUnreachable as fault:
        end(FAILED, str(fault))
    try:
        yield settings, database
    except (BadInput, NotFound) as fault:
        end(WRONG, fault.message)
    except ServiceRefusal as fault:
        end(REFUSED, fault.message)
    finally:
        database.close()
