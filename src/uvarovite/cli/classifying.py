"""The command that says what a message is that came in."""

from dataclasses import asdict
from pathlib import Path

import typer

from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.core.delivery.answers import meaning_words
from uvarovite.core.responses.inbound import SIGNS, classify_mail


@app.command()
def classify(
    file: Path,
    envelope: str | None = typer.Option(None, help="The sender of its envelope; empty for that of reports."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """What a message is that came in (.eml), by which sign, and what a report says; nothing is done about it."""
    try:
        raw = file.read_bytes()
    except OSError as fault:
        end(WRONG, f"{file} cannot be read: {fault.strerror}.")
    told = classify_mail(raw, sender=envelope)
    sign = next(one for one in SIGNS if one.name == told.sign)
    words = [f"{told.kind}: {sign.meaning}"]
    words += [
        f"{one.address or 'somebody'}: {one.happened}, {meaning_words(one.meaning)}; {one.said}".rstrip("; ")
        for one in told.reports
    ]
    words += [f"about {one}" for one in told.about]
    show(asdict(told), as_json=as_json, words="\n".join(words))
