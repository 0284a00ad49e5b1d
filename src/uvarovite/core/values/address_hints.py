"""What looks odd about an address that is written correctly: it is pointed out with a suggestion, never changed.

Which domains are usual is told by the contacts themselves, and by a list of those that many people have anywhere: a domain
that few have, one slip away from one that many have, is most often that one mistyped.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from rapidfuzz.distance import OSA

from uvarovite.core.values.common_domains import COMMON_DOMAINS

# RFC 2142 and what organisations use besides: a mailbox of several people, who did not all opt in.
ROLES = frozenset(
    [
        "abuse",
        "admin",
        "billing",
        "contact",
        "hello",
        "help",
        "info",
        "kontakt",
        "mail",
        "marketing",
        "noc",
        "noreply",
        "no-reply",
        "office",
        "postmaster",
        "press",
        "sales",
        "security",
        "support",
        "team",
        "webmaster",
    ]
)
# A domain is usual when so many contacts have it, and so many times more than the one that looks like it.
USUAL = 10
TIMES_MORE = 5
# One letter of a shorter domain makes too many others.
SHORTEST = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressHint:
    """`code` is role or typo; a typo has the address that was probably meant."""

    code: str
    suggestion: str | None = None


def one_slip_apart(one: str, other: str) -> bool:
    """Does one letter too many, too few, wrong, or two that changed places, tell the texts apart?"""
    return OSA.distance(one, other, score_cutoff=1) == 1


def usual_domain_for(domain: str, counts: Mapping[str, int]) -> str | None:
    """The usual domain that another one is one slip away from. `counts` tells how many contacts have each domain."""
    if domain in COMMON_DOMAINS:
        return None
    mine = counts.get(domain, 0)
    near = [
        (count, other)
        for other, count in counts.items()
        if count >= USUAL and count >= TIMES_MORE * max(1, mine) and one_slip_apart(domain, other)
    ]
    if near:
        return max(near)[1]
    # A domain that many contacts have is theirs, whatever it looks like.
    if mine >= USUAL:
        return None
    return next((one for one in COMMON_DOMAINS if len(one) >= SHORTEST and one_slip_apart(domain, one)), None)


def address_hints(address: str, counts: Mapping[str, int]) -> list[AddressHint]:
    """What to point out about an address, in its form for comparing."""
    local, _, domain = address.rpartition("@")
    hints = []
    if local.partition("+")[0] in ROLES:
        hints.append(AddressHint(code="role"))
    meant = usual_domain_for(domain, counts)
    if meant is not None:
        hints.append(AddressHint(code="typo", suggestion=f"{local}@{meant}"))
    return hints
