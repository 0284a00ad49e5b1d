"""The command-line application, how it ends, and how it opens the database."""

import json
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, NoReturn

import typer
from typer.core import TyperGroup

from uvarovite.bootstrap import Database, DatabaseUnreachable, open_database
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.settings import SettingFault, Settings, load_settings

DONE, FAILED, WRONG, REFUSED = 0, 1, 2, 3


class _Commands(TyperGroup):
    """What every command has in common: a setting that is missing is one sentence."""

    def invoke(self, ctx: Any) -> Any:
        try:
            return super().invoke(ctx)
        except SettingFault as fault:
            end(WRONG, str(fault))


app = typer.Typer(
    name="uvarovite",
    cls=_Commands,
    help="Personalised bulk e-mail to people who asked for it.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)


def end(code: int, message: str) -> NoReturn:
    """Say why on the error stream, and end with a code."""
    print(message, file=sys.stderr)
    raise typer.Exit(code)


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


def show(value: dict[str, Any], *, as_json: bool, words: str) -> None:
    """One result, for a script or for a person."""
    print(json.dumps(value, ensure_ascii=False, default=str) if as_json else words)
