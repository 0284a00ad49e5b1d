"""The gates of the clearance, in order, each a row of one table.

A gate holds a person for a reason; the first gate that holds somebody is the one that counts, so that the sum
matched = held + cleared is true at any moment. The count on screen, the people behind a gate, the release and the
second look just before a message goes out are all made from these rows.

The SQL of a row is an expression over `contact` and what `joins_sql` puts beside it: `consent` and the entries of the
suppression list. It gives the reason's code or NULL. The gate of one per address compares with the others; what stands
before it is about the person, so that somebody who gets nothing anyway keeps nobody else from getting it, and what
stands behind it is about the address as well.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from uvarovite.core.audiences.earlier_mail import already_sql
from uvarovite.core.audiences.terms import MONTH_DAYS, WEEK_DAYS, Again, ClearanceTerms
from uvarovite.core.consent import REASON_WORDS, closed_sql
from uvarovite.core.contacts.verification import Verdict


class Stage(StrEnum):
    """Whom a gate looks at: the person alone, those who share an address, or whoever of them is kept."""

    PERSON = "person"
    ADDRESS = "address"
    KEPT = "kept"


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """`reasons` puts each reason's code into words. `live` gates are asked again when a message is about to go.

    `reason_sql` is None where the terms leave nothing to ask. What `may_be_lifted` is a matter of care, not of consent
    or of what is possible at all. `mended_in` names the place where the cause can be mended.
    """

    key: str
    label: str
    reason_sql: Callable[[ClearanceTerms], str | None]
    reasons: Mapping[str, str]
    mend: str
    mended_in: str
    live: bool = False
    stage: Stage = Stage.PERSON
    may_be_lifted: bool = False

    def words(self, reason: str, terms: ClearanceTerms | None = None) -> str:
        """A reason in words; that of a needed field names it."""
        needed = {one.key: f"no {one.label.lower()}" for one in terms.needed} if terms else {}
        return self.reasons.get(reason) or needed.get(reason) or reason


def _always(sql: str) -> Callable[[ClearanceTerms], str]:
    return lambda _: sql


def _consent_sql(terms: ClearanceTerms) -> str:
    demanded = {True: "", False: "FALSE AND ", None: "topic.double_opt_in AND "}[terms.double_opt_in]
    # Whoever came to a closed address later is told so, even if nobody ever asked them.
    return (
        "CASE WHEN consent.state = 'left' THEN 'left' "
        f"WHEN {closed_sql('left', 'address_closing', 'consent.since')} THEN 'left_address' "
        "WHEN consent.state IS NULL OR consent.state = 'never' THEN 'never_asked' "
        "WHEN consent.state = 'asked' THEN 'asked' "
        f"WHEN {demanded}(NOT consent.confirmed OR consent.confirmed_address IS DISTINCT FROM contact.address_folded) "
        "THEN 'unconfirmed' WHEN consent.paused_until > :now THEN 'paused' "
        f"WHEN {closed_sql('paused', 'address_closing', 'consent.since')} THEN 'paused_address' END"
    )


def _needs_sql(terms: ClearanceTerms) -> str | None:
    cases = [f"WHEN {one.blank.text} THEN '{one.key}'" for one in terms.needed]
    return f"CASE {' '.join(cases)} END" if cases else None


def _recent_sql(terms: ClearanceTerms) -> str | None:
    cases = [
        f"WHEN contact.id IN (SELECT contact_id FROM over_cap WHERE cap = '{name}' AND contact_id IS NOT NULL) "
        f"OR contact.address_folded IN (SELECT address_folded FROM over_cap WHERE cap = '{name}' "
        f"AND address_folded IS NOT NULL) THEN '{name}'"
        for name in terms.caps.in_force()
    ]
    return f"CASE {' '.join(cases)} END" if cases else None


def _again_sql(terms: ClearanceTerms) -> str | None:
    if already_sql(terms) is None:
        return None
    reason = "campaign" if terms.again is Again.NEW_TO_CAMPAIGN else "message"
    return (
        "CASE WHEN contact.id IN (SELECT contact_id FROM already) "
        f"OR contact.address_folded IN (SELECT address_folded FROM already) THEN '{reason}' END"
    )


GATES: tuple[Gate, ...] = (
    Gate(
        key="address",
        label="has a usable address",
        reason_sql=_always("CASE WHEN contact.address_folded IS NULL THEN 'no_address' END"),
        reasons={"no_address": "no e-mail address", "deleted": "deleted from the contacts"},
        mend="Add an address to the contact, or import a file that has it.",
        mended_in="imports",
    ),
    Gate(
        key="undeliverable",
        label="the domain can receive mail",
        reason_sql=_always(
            "CASE WHEN split_part(contact.address_folded, '@', 2) IN "
            f"(SELECT domain FROM domain_check WHERE verdict = '{Verdict.CANNOT}') THEN 'no_mail' END"
        ),
        reasons={"no_mail": "the domain cannot take mail"},
        may_be_lifted=True,
        mend="Correct the address, or have the domain looked up again beside the person.",
        mended_in="person",
    ),
    Gate(
        key="consent",
        label="opted in to the topic",
        reason_sql=_consent_sql,
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
        reason_sql=_always(
            "coalesce(suppression.reason, CASE WHEN topic_suppression.id IS NOT NULL THEN 'topic' END, "
            "CASE WHEN domain_suppression.id IS NOT NULL THEN 'domain' END)"
        ),
        reasons={
            **{reason.value: words for reason, words in REASON_WORDS.items()},
            "topic": "suppressed for this topic",
            "domain": "the whole domain is suppressed",
        },
        mend="Suppressed addresses get nothing.",
        mended_in="suppression",
        live=True,
    ),
    Gate(
        key="left_out",
        label="not left out by hand",
        reason_sql=_always(
            "CASE WHEN contact.id IN (SELECT contact_id FROM audience_member "
            "WHERE audience_id = :audience_id AND kind = 'left_out') THEN 'by_hand' END"
        ),
        reasons={"by_hand": "left out of the audience by hand"},
        may_be_lifted=True,
        mend="Take them back in on the audience's page.",
        mended_in="audience",
    ),
    Gate(
        key="needs",
        label="has what the message needs",
        reason_sql=_needs_sql,
        reasons={},
        mend="Fill in what is missing, or let the message do without it.",
        mended_in="message",
    ),
    Gate(
        key="duplicate",
        label="one per address",
        reason_sql=_always("CASE WHEN contact.id IN (SELECT id FROM shared) THEN 'same_address' END"),
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
        key="recent",
        label="not contacted too recently",
        reason_sql=_recent_sql,
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
        label="not sent already",
        reason_sql=_again_sql,
        reasons={"campaign": "got this campaign already", "message": "got this message already"},
        may_be_lifted=True,
        mend="Who gets it again is chosen beside the audience of the campaign.",
        mended_in="campaign",
        stage=Stage.KEPT,
    ),
)
