"""The command that brings people in: import."""

import os
from collections.abc import Iterator
from pathlib import Path

import typer
from rich.console import Console
from rich.progress import Progress

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.imports.views import report_json
from uvarovite.services.imports.writing import import_file


def pieces_of(file: Path) -> Iterator[bytes]:
    """A file's bytes, a megabyte at a time."""
    with file.open("rb") as opened:
        while piece := opened.read(1 << 20):
            yield piece


@app.command(name="import")
def import_command(
    file: Path = typer.Argument(..., help="A CSV, XLSX, ODS or vCard file."),
    topic: str = typer.Option("", help="The key of the topic that these people opted in to."),
    legal_basis: str = typer.Option("", "--ground", help="How they agreed; needed with --topic."),
    dry_run: bool = typer.Option(False, help="Say what would happen; write nothing."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """Import people from a file."""
    if not os.access(file, os.R_OK) or not file.is_file():
        end(WRONG, f"{file} cannot be read: it is not there, or no file that may be read.")
    with (
        installation() as (settings, database),
        Progress(transient=True, disable=as_json, console=Console(stderr=True)) as bar,
    ):
        task = bar.add_task("reading", total=1)

        view = import_file(
            database,
            SYSTEM,
            filename=file.name,
            content=pieces_of(file),
            topic=topic or None,
            legal_basis=legal_basis,
            now=system_clock(),
            dry_run=dry_run,
            refusals_shown=1_000_000,
            hasher=address_hasher(settings.secret()),
            step=lambda phase, done, total: bar.update(task, description=phase, completed=done, total=max(1, total)),
        )
    words = f"{view.new:,} new, {view.changed:,} changed, {view.same:,} the same, {view.refused:,} refused"
    if dry_run:
        words = f"It would be: {words}. Nothing was written."
    words += "".join(f"\n  row {row.row}: {row.message}" for row in view.refusals[:20])
    show(report_json(view), as_json=as_json, words=words)
