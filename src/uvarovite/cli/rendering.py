"""Make messages of a message file and records, without a database."""

import re
from collections.abc import Iterable, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.core.contacts import Record
from uvarovite.core.language import place_of
from uvarovite.core.messages.message_file import (
    FileMaker,
    NotReadable,
    problems_of,
    read_locale,
    read_message_file,
    read_records,
)
from uvarovite.core.messages.proofs import choose_proofs
from uvarovite.sandbox.press import the_press

# A line that a reader of mailboxes would take for the next message (RFC 4155, the mboxrd way of quoting).
_FROM = re.compile(rb"^(>*From )", re.MULTILINE)


@app.command()
def render(
    message: Path = typer.Argument(help="A message file (docs/languages/message.md)."),
    records: Path = typer.Option(help="A JSON array of records, each with an address."),
    out: Path = typer.Option(help="A directory for one .eml each, or a file.mbox for all."),
    locale: str = typer.Option("", help="Instead of the organisation's, such as de_AT."),
    proofs: bool = typer.Option(False, help="Only the few records that together show all that differs."),
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
    maker = FileMaker(told, now=now, locale=reader, press=lambda page, style: the_press().pdf(page, style, pictures={}))
    chosen = _proofs(maker, people) if proofs else [(number, []) for number in range(len(people))]
    made = (maker.make(people[number], number + 1) for number, _ in chosen)
    count = _to_mailbox(made, out, now) if out.suffix == ".mbox" else _to_directory(made, out)
    result: dict[str, Any] = {"messages": count, "problems": [], "out": str(out)}
    if proofs:
        result["proofs"] = [{"record": number + 1, "shows": shows} for number, shows in chosen]
    show(result, as_json=as_json, words=f"{count:,} {'message' if count == 1 else 'messages'} written to {out}.")


def _proofs(maker: FileMaker, people: Sequence[Record]) -> list[tuple[int, list[dict[str, str]]]]:
    """Whose messages to look at, by place, and what nobody before them shows."""
    features = maker.features(people)
    return [
        (
            proof.recipient,
            [
                {"kind": one.kind, "part": one.part, "about": one.about, "which": one.which}
                for one in (features.features[place] for place in proof.shows)
            ],
        )
        for proof in choose_proofs(features)
    ]


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as fault:
        end(WRONG, f"{path} cannot be read: {fault.strerror}.")


def _to_directory(made: Iterable[bytes], out: Path) -> int:
    count = 0
    try:
        out.mkdir(parents=True, exist_ok=True)
        for count, one in enumerate(made, 1):
            (out / f"{count:06}.eml").write_bytes(one)
    except OSError as fault:
        end(WRONG, f"{out} cannot be written: {fault.strerror}.")
    return count


def _to_mailbox(made: Iterable[bytes], out: Path, now: datetime) -> int:
    count = 0
    try:
        with out.open("wb") as file:
            for one in made:
                count += 1
                body = _FROM.sub(rb">\1", one.replace(b"\r\n", b"\n"))
                file.write(b"From uvarovite %s\n%s\n" % (f"{now:%a %b %d %H:%M:%S %Y}".encode(), body))
    except OSError as fault:
        end(WRONG, f"{out} cannot be written: {fault.strerror}.")
    return count
