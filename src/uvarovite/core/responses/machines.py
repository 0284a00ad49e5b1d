"""People or machines: scanners and prefetching proxies fetch links that nobody has looked at.

One table of rules, each with a name that is stored with the event. The first that applies is the reason; where none
does, a person is believed to have done it.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta


@dataclass(frozen=True, slots=True, kw_only=True)
class Fetch:
    """One request for a pixel or a link. `accepted_at` is when the relay took the message, if it has."""

    method: str
    agent: str
    at: datetime
    accepted_at: datetime | None


# Quicker than a message gets through a mailbox and before somebody's eyes.
SOONEST_HUMAN = timedelta(seconds=2)
_AGENTS = re.compile(r"bot\b|crawl|spider|scan|prefetch|proxy|curl|wget|python|go-http", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRule:
    """`applies` tells whether a fetch is a machine's by this rule."""

    name: str
    meaning: str
    applies: Callable[[Fetch], bool]


MACHINE_RULES: tuple[MachineRule, ...] = (
    MachineRule(
        name="head", meaning="asked for the head only, as scanners do", applies=lambda fetch: fetch.method == "HEAD"
    ),
    MachineRule(
        name="agent",
        meaning="called itself a scanner, a proxy or a program",
        applies=lambda fetch: not fetch.agent or _AGENTS.search(fetch.agent) is not None,
    ),
    MachineRule(
        name="too_soon",
        meaning="came sooner than anybody reads",
        applies=lambda fetch: fetch.accepted_at is None or fetch.at - fetch.accepted_at < SOONEST_HUMAN,
    ),
)


def machine_reason(fetch: Fetch) -> str | None:
    """The name of the rule by which a machine fetched, or None for a person."""
    return next((rule.name for rule in MACHINE_RULES if rule.applies(fetch)), None)
