"""The gates of the clearance, in order, each a row of one table.

A gate holds a person for a reason; the first gate that holds somebody is the one that counts, so that the sum
matched = held + cleared is true at any moment. The count on screen, the people behind a gate, the release and the
second look just before a message goes out are all made from these rows; each has one SQL, which the store keeps.

The gate of one per address compares with the others; what stands before it is about the person, so that somebody who
gets nothing anyway keeps nobody else from getting it, and what stands behind it is about the address as well.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.audiences.terms import MONTH_DAYS, WEEK_DAYS, ClearanceTerms
from uvarovite.core.consent import REASON_WORDS


class Stage(StrEnum):
    """Whom a gate looks at: the person alone, those who share an address, or whoever of them is kept."""

    PERSON = "person"
    ADDRESS = "address"
    KEPT = "kept"


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """`reasons` puts each reason's code into words. `live` gates are asked again when a message is about to go.

    `asks`: do the terms leave something to ask? What `may_be_lifted` is a matter of care, not of consent or of what is
    possible at all. `mended_in` names the place where the cause can be mended.
    """

    key: str
    label: str
    reasons: Mapping[str, str]
    mend: str
    mended_in: str
    live: bool = False
    stage: Stage = Stage.PERSON
    may_be_lifted: bool = False
    asks: Callable[[ClearanceTerms], bool] = lambda _: True

    def words(self, reason: str, terms: ClearanceTerms | None = None) -> str:
        """A reason in words; that of a needed field names it."""
        needed = {one.key: f"no {one.label.lower()}" for one in terms.needed} if terms else {}
        return self.reasons.get(reason) or needed.get(reason) or reason


_LEFT_OUT = Gate(
    key="left_out",
    label="not left out by hand",
    reasons={"by_hand": "left out of the audience by hand"},
    may_be_lifted=True,
    mend="Take them back in on the audience's page.",
    mended_in="audience",
)
_NEEDS = Gate(
    key="needs",
    asks=lambda terms: bool(terms.needed),
    label="has what the message needs",
    reasons={},
    mend="Fill in what is missing, or let the message do without it.",
    mended_in="message",
)

GATES: tuple[Gate, ...] = (
    Gate(
        key="address",
        label="has a usable address",
        reasons={"no_address": "no e-mail address", "deleted": "deleted from the contacts"},
        mend="Add an address to the contact, or import a file that has it.",
        mended_in="imports",
    ),
    Gate(
        key="undeliverable",
        label="the domain can receive mail",
        reasons={"no_mail": "the domain cannot take mail"},
        may_be_lifted=True,
        mend="Correct the address, or have the domain looked up again beside the person.",
        mended_in="person",
    ),
    Gate(
        key="consent",
        label="opted in to the topic",
        reasons={
            "never_asked": "never asked",
            "asked": "asked, no answer",
            "left": "left the topic",
            "left_address": "the topic was left from this address",
            "unconfirmed": "did not confirm from this address, and the topic demands it",
            "paused": "pauses for now",
            "paused_address": "the topic pauses at this address",
        },
        mend="Only the person can change this: invite them to sign up.",
        mended_in="topic",
        live=True,
    ),
    Gate(
        key="suppressed",
        label="not suppressed",
        reasons={
            **{reason.value: words for reason, words in REASON_WORDS.items()},
            "topic": "suppressed for this topic",
            "domain": "the whole domain is suppressed",
        },
        mend="Suppressed addresses get nothing.",
        mended_in="suppression",
        live=True,
    ),
    _LEFT_OUT,
    _NEEDS,
    Gate(
        key="duplicate",
        label="one per address",
        reasons={
            "same_address": "shares an address with somebody who gets it",
            "merged": "merged into somebody who gets it",
        },
        may_be_lifted=False,
        mend="Set-up says which record is kept; duplicates can be merged.",
        mended_in="duplicates",
        stage=Stage.ADDRESS,
    ),
    Gate(
        key="own_limit",
        asks=lambda terms: terms.own_limits,
        label="within their own limit",
        reasons={
            "week": f"wants one message in {WEEK_DAYS} days at most, and has it",
            "month": f"wants one message in {MONTH_DAYS} days at most, and has it",
        },
        mend="They chose it on their preference page; only they change it.",
        mended_in="person",
        stage=Stage.KEPT,
    ),
    Gate(
        key="recent",
        asks=lambda terms: bool(terms.caps.in_force()),
        label="not contacted too recently",
        reasons={
            "week": f"has had as much as is allowed within {WEEK_DAYS} days",
            "month": f"has had as much as is allowed within {MONTH_DAYS} days",
            "topic_week": f"has had as much of this topic as is allowed within {WEEK_DAYS} days",
            "topic_month": f"has had as much of this topic as is allowed within {MONTH_DAYS} days",
        },
        may_be_lifted=True,
        mend="Wait some days, or change the caps of the organisation or of the topic in Set-up.",
        mended_in="caps",
        stage=Stage.KEPT,
    ),
    Gate(
        key="again",
        asks=lambda terms: terms.looks_back,
        label="not sent already",
        reasons={"campaign": "got this campaign already", "message": "got this message already"},
        may_be_lifted=True,
        mend="Who gets it again is chosen beside the audience of the campaign.",
        mended_in="campaign",
        stage=Stage.KEPT,
    ),
)

# Who gets a letter on paper. Consent is asked for e-mail; a letter may come until somebody says that they want none.
PAPER_GATES: tuple[Gate, ...] = (
    Gate(
        key="by_mail",
        label="has no e-mail address",
        reasons={"has_address": "has an e-mail address"},
        mend="Letters on paper are for those who cannot get the message by e-mail.",
        mended_in="person",
    ),
    Gate(
        key="postal",
        label="has a postal address",
        reasons={"no_street": "no street", "no_town": "no town", "no_postcode": "no postcode"},
        mend="Fill in street, postcode and town, or import a file that has them.",
        mended_in="imports",
    ),
    Gate(
        key="no_post",
        label="is not opposed to post",
        reasons={
            "no_post": "wants no post",
            "left": "left the topic",
            "paused": "pauses for now",
        },
        mend="Only the person can change this; what they say is recorded beside them.",
        mended_in="person",
    ),
    _LEFT_OUT,
    _NEEDS,
    Gate(
        key="printed",
        label="not printed already",
        reasons={"printed": "got this campaign on paper already"},
        mend="Whoever got a letter of this campaign gets no second one.",
        mended_in="campaign",
    ),
)


def gates_of(terms: ClearanceTerms) -> tuple[Gate, ...]:
    """The gates that stand before what these terms are about."""
    return PAPER_GATES if terms.on_paper else GATES
