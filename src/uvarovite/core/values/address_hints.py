"""What looks odd about an address that is written correctly: it is pointed out with a suggestion, never changed.

Which domains are usual is told by the contacts themselves: a domain that few have, one slip away from one that many
have, is most often that one mistyped.
"""

from collections.abc import Mapping
from dataclasses import dataclass

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


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressHint:
    """`code` is role or typo; a typo has the address that was probably meant."""

    code: str
    suggestion: str | None = None


def one_slip_apart(one: str, other: str) -> bool:
    """Does one letter too many, too few, wrong, or two that changed places, tell the texts apart?"""
    if one == other or abs(len(one) - len(other)) > 1:
        return False
    at = next(
        (place for place, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other))
    )
    rest, rest_other = one[at:], other[at:]
    return (
        rest[1:] == rest_other[1:]
        or rest[1:] == rest_other
        or rest == rest_other[1:]
        or (rest[:2] == rest_other[1::-1] and rest[2:] == rest_other[2:])
    )


def usual_domain_for(domain: str, counts: Mapping[str, int]) -> str | None:
    """The usual domain that a rarer one is one slip away from. `counts` tells how many contacts have each domain."""
    mine = counts.get(domain, 0)
    near = [
        (count, other)
        for other, count in counts.items()
        if count >= USUAL and count >= TIMES_MORE * max(1, mine) and one_slip_apart(domain, other)
    ]
    return max(near)[1] if near else None


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
