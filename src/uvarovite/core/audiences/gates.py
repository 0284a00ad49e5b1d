"""The gates of the clearance, in order, each a row of one table.

A gate holds a person for a reason; the first gate that holds somebody is the one that counts, so that the sum
matched = held + cleared is true at any moment. The count on screen, the people behind a gate, the release and the
second look just before a message goes out are all made from these rows.

The SQL of a row is an expression over `contact` and what `joins_sql` puts beside it: `consent` (for the topic), what
name servers said of the address's domain, and the entries of the suppression list. It gives the reason's code or NULL,
and may read the moment `:now`. One row per address compares with the others, so its expression runs over the people
whom the gates before it let through.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.consent import REASON_WORDS
from uvarovite.core.contacts.verification import Verdict
from uvarovite.core.expressions import SqlFragment


@dataclass(frozen=True, slots=True, kw_only=True)
class Gate:
    """`reasons` puts each reason's code into words. `live` gates are asked again when a message is about to go.

    What `may_be_lifted` is a matter of care, not of consent or of what is possible at all.
    """

    key: str
    label: str
    reason_sql: str
    reasons: Mapping[str, str]
    mend: str
    live: bool = False
    among_passed: bool = False
    may_be_lifted: bool = False


GATES: tuple[Gate, ...] = (
    Gate(
        key="address",
        label="has a usable address",
        reason_sql="CASE WHEN contact.address_folded IS NULL THEN 'no_address' END",
        reasons={"no_address": "no e-mail address", "deleted": "deleted from the contacts"},
        mend="Add an address to the contact.",
    ),
    Gate(
        key="undeliverable",
        label="the domain takes mail",
        reason_sql=f"CASE WHEN domain_check.verdict = '{Verdict.CANNOT}' THEN 'no_mail' END",
        reasons={"no_mail": "the domain cannot take mail"},
        may_be_lifted=True,
        mend="Correct the address, or have the domain looked up again.",
    ),
    Gate(
        key="consent",
        label="opted in to the topic",
        reason_sql=(
            "CASE WHEN consent.state IS NULL OR consent.state = 'never' THEN 'never_asked' "
            "WHEN consent.state = 'asked' THEN 'asked' WHEN consent.state = 'left' THEN 'left' "
            "WHEN consent.paused_until > :now THEN 'paused' END"
        ),
        reasons={
            "never_asked": "never asked",
            "asked": "asked, no answer",
            "left": "left the topic",
            "paused": "pauses for now",
        },
        mend="Only the person can change this: invite them to sign up.",
        live=True,
    ),
    Gate(
        key="suppressed",
        label="not suppressed",
        reason_sql=(
            "coalesce(suppression.reason, CASE WHEN topic_suppression.id IS NOT NULL THEN 'topic' END, "
            "CASE WHEN domain_suppression.id IS NOT NULL THEN 'domain' END)"
        ),
        reasons={
            **{reason.value: words for reason, words in REASON_WORDS.items()},
            "topic": "suppressed for this topic",
            "domain": "the whole domain is suppressed",
        },
        mend="Suppressed addresses get nothing.",
        live=True,
    ),
    # Before the one that looks at addresses: who is left out keeps nobody else from getting it.
    Gate(
        key="left_out",
        label="not left out by hand",
        reason_sql="CASE WHEN left_out.contact_id IS NOT NULL THEN 'by_hand' END",
        reasons={"by_hand": "left out of the audience by hand"},
        may_be_lifted=True,
        mend="Take them back in on the audience's page.",
    ),
    Gate(
        key="duplicate",
        label="one per address",
        reason_sql=(
            "CASE WHEN row_number() OVER (PARTITION BY contact.address_folded ORDER BY contact.id) > 1 "
            "THEN 'same_address' END"
        ),
        reasons={"same_address": "shares an address with somebody who gets it"},
        may_be_lifted=True,
        mend="The contact that was there first is kept.",
        among_passed=True,
    ),
)


def joins_sql(person: str, *, contact_id: str, topic_id: str) -> str:
    """The joins that the gates read, for the alias `person` (which has `address_folded`) and two SQL expressions."""
    return f"""
        LEFT JOIN consent ON consent.contact_id = {contact_id} AND consent.topic_id = {topic_id}
        LEFT JOIN domain_check ON domain_check.domain = split_part({person}.address_folded, '@', 2)
        LEFT JOIN suppression ON suppression.address_folded = {person}.address_folded
            AND suppression.lifted_at IS NULL AND suppression.topic_id IS NULL
        LEFT JOIN suppression AS topic_suppression ON topic_suppression.address_folded = {person}.address_folded
            AND topic_suppression.lifted_at IS NULL AND topic_suppression.topic_id = {topic_id}
        LEFT JOIN suppression AS domain_suppression ON domain_suppression.lifted_at IS NULL
            AND domain_suppression.domain = split_part({person}.address_folded, '@', 2)"""


def of_snapshot(now: datetime) -> SqlFragment:
    """The people of a frozen audience, as a condition over `contact`; `with_hand_picked` says of which."""
    text = "contact.id IN (SELECT contact_id FROM audience_snapshot WHERE audience_id = :audience_id)"
    return SqlFragment(text=text, parameters={"now": now})


def with_hand_picked(criteria: SqlFragment, audience_id: int | None, *, any_added: bool) -> SqlFragment:
    """Criteria with the people who were added to an audience by hand; who was left out is held by a gate.

    An audience that nobody was added to keeps its plain condition, which indexes can serve.
    """
    text = criteria.text
    if any_added:
        added = "SELECT contact_id FROM audience_member WHERE audience_id = :audience_id AND kind = 'added'"
        text = f"({text} OR contact.id IN ({added}))"
    return SqlFragment(text=text, parameters={**criteria.parameters, "audience_id": audience_id})


def clearance_sql(criteria: str, *, lifted: str | None = None) -> str:
    """A CTE `judged(contact_id, gate, reason)`: one row for each matched contact; gate is NULL when cleared.

    `lifted` is the key of a gate that holds nobody, for asking what would change.

    `criteria` is a condition over `contact`; the statement binds `:topic_id`, `:audience_id` and `:now`.
    """
    plain = [gate for gate in GATES if not gate.among_passed and gate.key != lifted]
    among = [gate for gate in GATES if gate.among_passed]
    reasons = ", ".join(f"{gate.reason_sql} AS {gate.key}" for gate in plain)
    first_gate = "CASE " + " ".join(f"WHEN {gate.key} IS NOT NULL THEN '{gate.key}'" for gate in plain) + " END"
    first_reason = f"coalesce({', '.join(gate.key for gate in plain)})"
    held = " AND ".join(f"{gate.key} IS NULL" for gate in plain)
    ranked = ", ".join(f"{'NULL' if gate.key == lifted else gate.reason_sql} AS {gate.key}" for gate in among)
    late_gate = "CASE " + " ".join(f"WHEN {gate.key} IS NOT NULL THEN '{gate.key}'" for gate in among) + " END"
    late_reason = f"coalesce({', '.join(gate.key for gate in among)})"
    return f"""
    looked AS MATERIALIZED (
        SELECT contact.id, contact.address_folded, {reasons}
        FROM contact
        {joins_sql("contact", contact_id="contact.id", topic_id=":topic_id")}
        LEFT JOIN audience_member AS left_out ON left_out.audience_id = :audience_id
            AND left_out.contact_id = contact.id AND left_out.kind = 'left_out'
        WHERE contact.deleted_at IS NULL AND {criteria}
    ),
    passed AS (SELECT contact.id, {ranked} FROM looked AS contact WHERE {held}),
    judged AS (
        SELECT looked.id AS contact_id, {first_gate} AS gate, {first_reason} AS reason FROM looked WHERE NOT ({held})
        UNION ALL
        SELECT passed.id, {late_gate}, {late_reason} FROM passed
    )"""


def live_reason_sql() -> tuple[str, str]:
    """(gate, reason): expressions over the same aliases for the gates that are asked again at the last moment."""
    live = [gate for gate in GATES if gate.live]
    gate = "CASE " + " ".join(f"WHEN ({row.reason_sql}) IS NOT NULL THEN '{row.key}'" for row in live) + " END"
    return gate, f"coalesce({', '.join(f'({row.reason_sql})' for row in live)})"
