"""Make messages of a message file and records, without a database."""

import re
from collections.abc import Iterable
from datetime import datetime
from pathlib import Path

import typer

from uvarovite.bootstrap import system_clock
from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.core.language import place_of
from uvarovite.core.messages.message_file import (
    MadeMessage,
    NotReadable,
    make_messages,
    problems_of,
    read_locale,
    read_message_file,
    read_records,
)

# A line that a reader of mailboxes would take for the next message (RFC 4155, the mboxrd way of quoting).
_FROM = re.compile(rb"^(>*From )", re.MULTILINE)


@app.command()
def render(
    message: Path = typer.Argument(help="A message file (docs/languages/message.md)."),
    records: Path = typer.Option(help="A JSON array of records, each with an address."),
    out: Path = typer.Option(help="A directory for one .eml each, or a file.mbox for all."),
    locale: str = typer.Option("", help="Instead of the organisation's, such as de_AT."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """Make a message for each record; nothing is sent, and no database is asked."""
    try:
        told = read_message_file(_read(message))
        people = read_records(_read(records), told.known_fields())
        problems = problems_of(told)
        reader = read_locale(locale) if locale else None
    except NotReadable as fault:
        end(WRONG, str(fault))
    if problems:
        lines = []
        for one in problems:
            place = place_of(one.source, one.problem.span)
            lines.append(f"{one.part}, line {place.line}, column {place.column}: {one.problem.message}")
        found = [{"part": one.part, "code": one.problem.code, "message": one.problem.message} for one in problems]
        if as_json:
            show({"messages": 0, "problems": found}, as_json=True, words="")
        end(WRONG, "\n".join(lines))
    now = system_clock()
    made = make_messages(told, people, now=now, locale=reader)
    count = _to_mailbox(made, out, now) if out.suffix == ".mbox" else _to_directory(made, out)
    show(
        {"messages": count, "problems": [], "out": str(out)},
        as_json=as_json,
        words=f"{count:,} {'message' if count == 1 else 'messages'} written to {out}.",
    )


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        end(WRONG, f"{path} cannot be read: {fault.strerror}.")


def _to_directory(made: Iterable[MadeMessage], out: Path) -> int:
    count = 0
    try:
        out.mkdir(parents=True, exist_ok=True)
        for count, one in enumerate(made, 1):
            (out / f"{count:06}.eml").write_bytes(one.raw)
    except OSError as fault:
        end(WRONG, f"{out} cannot be written: {fault.strerror}.")
    return count


def _to_mailbox(made: Iterable[MadeMessage], out: Path, now: datetime) -> int:
    count = 0
    try:
        with out.open("wb") as file:
            for one in made:
                count += 1
                body = _FROM.sub(rb">\1", one.raw.replace(b"\r\n", b"\n"))
                file.write(b"From uvarovite %s\n%s\n" % (f"{now:%a %b %d %H:%M:%S %Y}".encode(), body))
    except OSError as fault:
        end(WRONG, f"{out} cannot be written: {fault.strerror}.")
    return count
