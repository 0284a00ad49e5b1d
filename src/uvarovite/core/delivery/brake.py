"""The brake: when a run pauses by itself, and why."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from uvarovite.core.campaigns import Brake, FirstSlice
from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import Coded

BRAKES: Mapping[str, str] = {
    "bounces": "{found} of the last {of:answer says|answers say} that the address is no good; the brake is at {most}.",
    "refusals": "{found} of the last {of:answer refuses|answers refuse} us or our message; the brake is at {most}.",
    "complaints": "{found} of the last {of:person|people} who were written to complained; the brake is at {most}.",
    "first_slice": (
        "{found} of the first {of:message|messages} bounced ({share}), and the rest should go only if less than {most} did."
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Braked(Coded):
    """Why a run paused by itself."""

    words: ClassVar[Mapping[str, str]] = BRAKES


@dataclass(frozen=True, slots=True, kw_only=True)
class Tally:
    """Of so many `answers` of relays: how many were `bounces`, about the address, at once or later, and `refusals`, about us; and how
    many of those people complained.
    """

    answers: int
    bounces: int
    refusals: int
    complaints: int = 0


def braked(brake: Brake, last: Tally) -> Braked | None:
    """Does a run pause after its last answers, of which `last` holds at most `brake.last`?

    A share is of all that the brake looks at, also while there are fewer answers: so few say too little.
    """
    for code, found, percent in (
        ("bounces", last.bounces, brake.bounce_percent),
        ("refusals", last.refusals, brake.refused_percent),
        ("complaints", last.complaints, brake.complaint_percent),
    ):
        if percent is not None and found * 100 >= percent * brake.last:
            most = f"{percent:g} % of {brake.last:,}"
            return Braked(code=code, facts={"found": found, "of": last.answers, "most": most})
    return None


def slice_braked(first: FirstSlice, told: Tally) -> Braked | None:
    """Does a run pause after its first slice, once it has waited?"""
    if not told.answers or told.bounces * 100 < first.bounce_percent * told.answers:
        return None
    return Braked(
        code="first_slice",
        facts={
            "found": told.bounces,
            "of": told.answers,
            "share": f"{100 * told.bounces / told.answers:.1f} %",
            "most": f"{first.bounce_percent:g} %",
        },
    )


BRAKED_FORM: StoredForm[Braked] = form_of(Braked)
