"""People or machines: scanners and prefetching proxies fetch links that nobody has looked at.

One table of rules, each with a name that is stored with the event. The first that applies is the reason; where none
does, a person is believed to have done it. What came of the same message about the same time is looked at together, so that an
earlier fetch may turn out to be a machine's by a later one.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """Another fetch of the same message: of which link (None: the pixel), or of the one that nobody sees."""

    link: int | None
    at: datetime
    unseen: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Fetch:
    """One request for the pixel (`link` is None) or a link, and what was fetched of the same message besides.

    `accepted_at` is when the relay took the message, if it has. `unseen`: the link was the one that nobody sees.
    """

    method: str
    agent: str
    at: datetime
    accepted_at: datetime | None
    link: int | None = None
    unseen: bool = False
    beside: tuple[Beside, ...] = ()


# Quicker than a message gets through a mailbox and before somebody's eyes.
SOONEST_HUMAN = timedelta(seconds=2)
# So many links within so short a time nobody follows; a scanner is through with a message in that time.
BURST_LINKS, BURST_WITHIN = 3, timedelta(seconds=3)
TOGETHER = timedelta(seconds=30)
_AGENTS = re.compile(r"bot\b|crawl|spider|scan|prefetch|proxy|curl|wget|python|go-http", re.IGNORECASE)


@lru_cache(maxsize=4_096)
def _is_program(agent: str) -> bool:
    # Most people come with one of few programs.
    return _AGENTS.search(agent) is not None


@dataclass(frozen=True, slots=True, kw_only=True)
class MachineRule:
    """`applies` tells whether a fetch is a machine's by this rule."""

    name: str
    meaning: str
    applies: Callable[[Fetch], bool]


def _is_in_burst(fetch: Fetch) -> bool:
    """Does it belong to a burst: some stretch of time, with it in it, in which too many links were followed?"""
    if fetch.link is None:
        return False
    clicks = {
        (one.at, one.link) for one in fetch.beside if one.link is not None and abs(one.at - fetch.at) <= BURST_WITHIN
    }
    clicks.add((fetch.at, fetch.link))
    if len({link for _, link in clicks}) < BURST_LINKS:
        return False
    begins = {at for at, _ in clicks if at <= fetch.at}
    return any(
        len({link for at, link in clicks if begin <= at <= begin + BURST_WITHIN}) >= BURST_LINKS for begin in begins
    )


MACHINE_RULES: tuple[MachineRule, ...] = (
    MachineRule(
        name="head", meaning="asked for the head only, as scanners do", applies=lambda fetch: fetch.method == "HEAD"
    ),
    MachineRule(
        name="agent",
        meaning="called itself a scanner, a proxy or a program",
        applies=lambda fetch: not fetch.agent or _is_program(fetch.agent),
    ),
    MachineRule(
        name="too_soon",
        meaning="came sooner than anybody reads",
        applies=lambda fetch: fetch.accepted_at is None or fetch.at - fetch.accepted_at < SOONEST_HUMAN,
    ),
    MachineRule(name="unseen", meaning="followed a link that nobody sees", applies=lambda fetch: fetch.unseen),
    MachineRule(
        name="with_unseen",
        meaning="came together with somebody who followed a link that nobody sees",
        applies=lambda fetch: any(one.unseen and abs(one.at - fetch.at) <= TOGETHER for one in fetch.beside),
    ),
    MachineRule(name="burst", meaning="followed more links at once than anybody does", applies=_is_in_burst),
)


def machine_reason(fetch: Fetch) -> str | None:
    """The name of the rule by which a machine fetched, or None for a person."""
    return next((rule.name for rule in MACHINE_RULES if rule.applies(fetch)), None)
