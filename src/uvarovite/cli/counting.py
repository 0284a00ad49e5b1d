"""How many people match and are cleared, and why somebody is or is not: count."""

from dataclasses import asdict
from typing import Any, TypedDict

import typer

from uvarovite.bootstrap.clocks import system_clock
from uvarovite.bootstrap.database import Database
from uvarovite.cli.app import WRONG, app, end, show
from uvarovite.cli.installation import installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.language import Span, caret, from_screen_offset
from uvarovite.services.audiences.audiences import audience_list
from uvarovite.services.audiences.clearance import clearance
from uvarovite.services.audiences.explain import explain
from uvarovite.services.campaigns.campaigns import campaign_list
from uvarovite.services.contacts.erasures import address_hasher
from uvarovite.services.expressions.criteria import read_criteria
from uvarovite.services.organisation.vocabulary import vocabulary


class _Asked(TypedDict):
    """Whom a clearance is asked for, by the services' names."""

    text: str
    audience_id: int | None
    topic_id: int | None
    campaign_id: int | None


def _whom(database: Database, criteria: str, topic: str, audience: str, campaign: str) -> _Asked:
    if [bool(criteria), bool(audience), bool(campaign)].count(True) != 1:
        end(WRONG, "Give criteria, or --audience NAME, or --campaign NAME: one of the three.")
    topics = vocabulary(database, SYSTEM).topics
    campaign_id = None
    if campaign:
        line = next((one for one in campaign_list(database, SYSTEM) if one.name == campaign), None)
        if line is None:
            end(WRONG, f"There is no campaign “{campaign}”.")
        if line.audience is None:
            end(WRONG, f"“{campaign}” has no audience yet.")
        if topic:
            end(WRONG, f"“{campaign}” has a topic of its own; leave --topic away.")
        campaign_id, audience = line.id, line.audience
        topic = next((one.key for one in topics if one.name == line.topic), "")
    keys = {one.key: one.id for one in topics}
    if topic and topic not in keys:
        end(WRONG, f"There is no topic “{topic}”; there are {', '.join(keys)}.")
    asked = _Asked(text=criteria, audience_id=None, topic_id=keys.get(topic), campaign_id=campaign_id)
    if not audience:
        return asked
    found = next((one for one in audience_list(database, SYSTEM) if one.name == audience), None)
    if found is None:
        end(WRONG, f"There is no audience “{audience}”.")
    return {**asked, "text": found.text, "audience_id": found.id}


@app.command()
def count(
    criteria: str = typer.Argument("", help='Such as: membership is "Patron" and town starts with "Sk"'),
    topic: str = typer.Option("", help="The key of the topic for the clearance."),
    audience: str = typer.Option("", help="Instead of criteria: the name of an audience, its hand-picked included."),
    campaign: str = typer.Option("", help="Instead of criteria: the name of a campaign, with its topic and its rules."),
    why: str = typer.Option("", help="An address: say why they get it, or not."),
    as_json: bool = typer.Option(False, "--json", help="For scripts."),
) -> None:
    """How many people match, and how many are cleared."""
    with installation() as (settings, database):
        now = system_clock()
        asked = _whom(database, criteria, topic, audience, campaign)
        problem = read_criteria(database, SYSTEM, text=asked["text"], audience_id=asked["audience_id"], now=now).problem
        if problem:
            place = {"line": problem.line, "column": problem.column, "length": problem.length}
            told_json = {"problem": {**place, "code": problem.code, "message": problem.message}}
            start, end = (from_screen_offset(asked["text"], at) for at in (problem.start, problem.end))
            span = Span(start=start, end=end)
            meant = f"\nMeant: {problem.suggestion}" if problem.suggestion else ""
            show(told_json, as_json=as_json, words=f"{caret(asked['text'], span)}\n{problem.message}{meant}")
            raise typer.Exit(WRONG)
        taken = clearance(database, SYSTEM, **asked, now=now)
        hasher = address_hasher(settings.secret())
        told_of = explain(database, SYSTEM, **asked, address=why, hasher=hasher, now=now) if why else None
    ways = told_of.people if told_of else []
    gates = [{"gate": gate.key, "held": gate.held} for gate in taken.gates]
    lines = [f"{taken.matched:8,} matched", *(f"{-gate.held:8,} {gate.label}" for gate in taken.gates)]
    lines += [f"{taken.cleared:8,} cleared", *(way.words for way in ways), *(told_of.words if told_of else [])]
    told: dict[str, Any] = {"matched": taken.matched, "gates": gates, "cleared": taken.cleared}
    if why:
        told |= {"why": [asdict(way) for way in ways]}
    show(told, as_json=as_json, words="\n".join(lines))
