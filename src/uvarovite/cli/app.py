"""The command-line application: which commands there are, and how a command ends."""

import json
import sys
from importlib import import_module
from typing import Any, NoReturn

import typer
from typer.core import TyperGroup
from typer.main import get_group

from uvarovite.settings import SettingFault

DONE, FAILED, WRONG, REFUSED = 0, 1, 2, 3

# Each command and the module that has it. It is imported when the command is asked for: most need a small part of the
# program, and all of it takes seconds to load.
COMMANDS = {
    "demo": "demo",
    "serve": "serve",
    "worker": "worker",
    "receive": "receive",
    "rehearsal": "rehearsal",
    "prepare-database": "prepare_database",
    "add-user": "accounts",
    "invite": "accounts",
    "token": "accounts",
    "import": "data",
    "count": "counting",
    "render": "rendering",
    "doctor": "doctor",
    "seal-anew": "sealing",
    "status": "runs",
    "dry-run": "runs",
    "classify": "classifying",
    "rehearse": "rehearsing",
    "play-rehearsal": "rehearsing",
    "log": "runs",
    "trace": "runs",
    "pause": "runs",
}


class _Commands(TyperGroup):
    """What every command has in common: it is found when asked for, and a setting that is missing is one sentence."""

    def list_commands(self, ctx: Any) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if cmd_name not in COMMANDS:
            return None
        import_module(f"uvarovite.cli.{COMMANDS[cmd_name]}")
        return get_group(app).commands[cmd_name]

    def invoke(self, ctx: Any) -> Any:
        try:
            return super().invoke(ctx)
        except SettingFault as fault:
            end(WRONG, str(fault))


app = typer.Typer(
    name="uvarovite",
    cls=_Commands,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
)


@app.callback()
def _every_command() -> None:
    """Personalised bulk e-mail to people who asked for it."""


def end(code: int, message: str) -> NoReturn:
    """Say why on the error stream, and end with a code."""
    print(message, file=sys.stderr)
    raise typer.Exit(code)


def show(value: dict[str, Any], *, as_json: bool, words: str) -> None:
    """One result, for a script or for a person."""
    print(json.dumps(value, ensure_ascii=False, default=str) if as_json else words)
