"""Commands that rehearse a campaign."""

import os
import signal
import sys
import time
from datetime import datetime

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.database import Database
from uvarovite.bootstrap.logs import set_up_logs
from uvarovite.bootstrap.rehearsing import play_rehearsal
from uvarovite.cli.app import FAILED, WRONG, app, end, show
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.services.campaigns.campaigns import campaign_list
from uvarovite.services.rehearsals.asking import (
    RehearsalAsk,
    RehearsalState,
    RehearsalView,
    ask_for_rehearsal,
    rehearsal_view,
)

# What is really sent comes first on this machine.
_NICE = 10
_LOOK_SECONDS = 0.5


@app.command()
def rehearse(
    campaign: str,
    scenario: str = typer.Option("ordinary", help=f"How the simulated world is: {', '.join(SCENARIOS)}."),
    starts: datetime | None = typer.Option(None, help="When it begins in its own time; now, unless told."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """Send a campaign into the simulated world, as fast as it goes; nothing that is real is changed."""
    if scenario not in SCENARIOS:
        raise typer.BadParameter(f"there is no scenario “{scenario}”; there are {', '.join(SCENARIOS)}")
    with installation() as (settings, database):
        found = next((line for line in campaign_list(database, SYSTEM) if line.name == campaign), None)
        if found is None:
            end(WRONG, f"There is no campaign “{campaign}”.")
        ask = RehearsalAsk(campaign_id=found.id, scenario=scenario, starts_at=starts)
        rehearsal_id = ask_for_rehearsal(database, SYSTEM, ask, now=system_clock())
        play_rehearsal(settings, database, rehearsal_id)
        view = _until_over(database, rehearsal_id)
    states = view.dispatch.states if view.dispatch else {}
    ended = view.rehearsal.its_time
    words = f"{view.campaign}, rehearsed: " + ", ".join(f"{count:,} {state}" for state, count in sorted(states.items()))
    told = {"rehearsal": rehearsal_id, "states": states, "trouble": view.rehearsal.trouble, "its_end": ended}
    show(told, as_json=as_json, words=f"{words}; done {ended:%Y-%m-%d %H:%M} UTC in its own time" if ended else words)
    if view.rehearsal.trouble:
        end(FAILED, view.rehearsal.trouble)


def _until_over(database: Database, rehearsal_id: int) -> RehearsalView:
    """A worker may have been quicker, and play it."""
    while True:
        view = rehearsal_view(database, SYSTEM, rehearsal_id, now=system_clock())
        if view.rehearsal.state in (RehearsalState.OVER, RehearsalState.BROKEN_OFF):
            return view
        time.sleep(_LOOK_SECONDS)


@app.command("play-rehearsal")
def play(rehearsal: int) -> None:
    """Play a rehearsal that was asked for; workers do it by themselves."""
    os.nice(_NICE)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    set_up_logs("rehearsal")
    with installation() as (settings, database):
        play_rehearsal(settings, database, rehearsal)
