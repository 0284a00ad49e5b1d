"""Commands about runs: dry run, status, trace, log, pause."""

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.database import Database
from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.campaigns.campaigns import campaign_list
from uvarovite.services.campaigns.dry_run import DryMessage
from uvarovite.services.campaigns.dry_run import dry_run as make_dry_run
from uvarovite.services.delivery.dispatch import pause as pause_run
from uvarovite.services.delivery.send_log import send_log
from uvarovite.services.delivery.traces import trace as trace_delivery
from uvarovite.services.delivery.watching import dispatch_view, find_deliveries


def _run_of(database: Database, campaign: str) -> int:
    found = next((line for line in campaign_list(database, SYSTEM) if line.name == campaign), None)
    if found is None:
        end(WRONG, f"There is no campaign “{campaign}”.")
    if found.run_id is None:
        end(WRONG, f"“{campaign}” was not released yet.")
    return found.run_id


@app.command()
def status(campaign: str, as_json: bool = typer.Option(False, "--json", help="For scripts.")) -> None:
    """Where the latest run of a campaign stands."""
    with installation() as (_, database):
        view = dispatch_view(database, SYSTEM, _run_of(database, campaign), system_clock())
    states = ", ".join(f"{count:,} {state}" for state, count in sorted(view.states.items()))
    words = f"{view.campaign}: {view.state}; {view.planned:,} planned: {states}"
    told = {"planned": view.planned, "states": view.states, "state": view.state, "ends_at": view.ends_at}
    show(told, as_json=as_json, words=words)


@app.command()
def trace(campaign: str, address: str, as_json: bool = typer.Option(False, "--json", help="For scripts.")) -> None:
    """Everything about one person and the latest run of a campaign."""
    with installation() as (_, database):
        found = find_deliveries(
            database, SYSTEM, _run_of(database, campaign), search=address, state=None, response=None
        )
        exact = next((line for line in found if line.address.lower() == address.lower()), None)
        if exact is None:
            end(WRONG, f"{address} was not planned in the latest run of “{campaign}”.")
        view = trace_delivery(database, SYSTEM, exact.id)
    steps = [{"at": step.at, "words": step.words, "code": step.code} for step in view.steps]
    words = "\n".join(
        f"{step.at:%Y-%m-%d %H:%M:%S}  {step.words}" + (f"  ({step.code})" if step.code else "")
        for step in view.steps
        if step.at
    )
    told = {"address": view.address, "state": view.state, "steps": steps}
    show(told, as_json=as_json, words=f"{view.name} <{view.address}>: {view.state}\n{words}")


@app.command()
def log(
    campaign: str,
    csv: Path | None = typer.Option(None, help="The file to write, as CSV."),
    xlsx: Path | None = typer.Option(None, help="The file to write, as XLSX."),
) -> None:
    """The send log of the latest run of a campaign: who, what, when, the relay's answer, and what came back."""
    files = [(form, path) for form, path in (("csv", csv), ("xlsx", xlsx)) if path is not None]
    if not files:
        end(WRONG, "Say where to: --csv FILE or --xlsx FILE.")
    with installation() as (_, database):
        run_id = _run_of(database, campaign)
        for form, path in files:
            with path.open("wb") as out:
                out.writelines(send_log(database, SYSTEM, run_id, form=form).pieces)
            print(f"The send log of “{campaign}” is in {path}.")


@app.command("dry-run")
def dry_run(
    campaign: str,
    mbox: Path | None = typer.Option(None, help="The file to write, as mbox."),
    eml: Path | None = typer.Option(None, help="A directory, for a file of each message."),
    most: int | None = typer.Option(None, min=1, help="Only the first so many."),
) -> None:
    """Write what would go out now into files: nothing is sent, and no relay is asked."""
    if (mbox is None) == (eml is None):
        end(WRONG, "Say where to: --mbox FILE or --eml DIRECTORY.")
    with installation() as (settings, database):
        found = next((line for line in campaign_list(database, SYSTEM) if line.name == campaign), None)
        if found is None:
            end(WRONG, f"There is no campaign “{campaign}”.")
        now = system_clock()
        messages = make_dry_run(
            database,
            SYSTEM,
            found.id,
            most=most,
            public_url=settings.base_url(),
            keyring=settings.keyring(),
            secret=settings.sealing(),
            now=now,
        )
        made = _written_one_by_one(eml, messages) if eml is not None else _written(mbox, messages, now)
    print(f"{made:,} messages are in {mbox or eml}. Nothing was sent; their links lead to nobody.")


def _written_one_by_one(directory: Path, messages: Iterator[DryMessage]) -> int:
    directory.mkdir(parents=True, exist_ok=True)
    made = 0
    for message in messages:
        made += 1
        (directory / f"{made:07}.eml").write_bytes(message.raw)
    return made


def _written(file: Path | None, messages: Iterator[DryMessage], now: datetime) -> int:
    assert file is not None
    made = 0
    with file.open("wb") as out:
        for message in messages:
            made += 1
            out.write(message.in_mbox(now))
    return made


@app.command()
def pause(campaign: str) -> None:
    """Pause the latest run of a campaign."""
    with installation() as (_, database):
        pause_run(database, SYSTEM, _run_of(database, campaign), system_clock())
    print(f"“{campaign}” is paused.")
