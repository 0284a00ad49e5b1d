"""The SQL of each gate (core.audiences.GATES and PAPER_GATES): an expression that gives the reason's code, or NULL where it holds nobody.

It is asked over the alias `contact` and what `joins_sql` puts beside it, `consent` and the entries of the suppression
list, and over the CTEs of the clearance; where the gate asks nothing, it is not used.
"""

from collections.abc import Callable, Mapping

from uvarovite.core.audiences import Again, ClearanceTerms
from uvarovite.core.consent import closed_sql
from uvarovite.core.contacts.verification import Verdict


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


def _needs_sql(terms: ClearanceTerms) -> str:
    cases = [f"WHEN {one.blank.text} THEN '{one.key}'" for one in terms.needed]
    return f"CASE {' '.join(cases)} END"


def _recent_sql(terms: ClearanceTerms) -> str:
    cases = [
        f"WHEN contact.id IN (SELECT contact_id FROM over_cap WHERE cap = '{name}' AND contact_id IS NOT NULL) "
        f"OR contact.address_folded IN (SELECT address_folded FROM over_cap WHERE cap = '{name}' "
        f"AND address_folded IS NOT NULL) THEN '{name}'"
        for name in terms.caps.in_force()
    ]
    return f"CASE {' '.join(cases)} END"


def _again_sql(terms: ClearanceTerms) -> str:
    reason = "campaign" if terms.again is Again.NEW_TO_CAMPAIGN else "message"
    return (
        "CASE WHEN contact.id IN (SELECT contact_id FROM already) "
        f"OR contact.address_folded IN (SELECT address_folded FROM already) THEN '{reason}' END"
    )


# Countries without postcodes (UPU, Postal addressing systems), as far as an address names them by code or in English.
_WITHOUT_POSTCODES = (
    "ae", "united arab emirates", "ao", "angola", "bs", "bahamas", "bz", "belize", "bj", "benin", "bw", "botswana",
    "bf", "burkina faso", "bi", "burundi", "cm", "cameroon", "fj", "fiji", "gh", "ghana", "hk", "hong kong",
    "jm", "jamaica", "ml", "mali", "qa", "qatar", "rw", "rwanda", "tg", "togo", "ug", "uganda", "zw", "zimbabwe",
)  # fmt: skip
_POSTAL = (
    "CASE WHEN contact.own->>'street' IS NULL THEN 'no_street' WHEN contact.own->>'town' IS NULL THEN 'no_town' "
    "WHEN contact.own->>'postcode' IS NULL AND lower(coalesce(contact.own->>'country', '')) NOT IN "
    f"({', '.join(repr(one) for one in _WITHOUT_POSTCODES)}) THEN 'no_postcode' END"
)

REASON_OF: Mapping[str, Callable[[ClearanceTerms], str]] = {
    "address": _always("CASE WHEN contact.address_folded IS NULL THEN 'no_address' END"),
    "undeliverable": _always(
        "CASE WHEN split_part(contact.address_folded, '@', 2) IN "
        f"(SELECT domain FROM domain_check WHERE verdict = '{Verdict.CANNOT}') THEN 'no_mail' END"
    ),
    "consent": _consent_sql,
    "suppressed": _always(
        "coalesce(suppression.reason, CASE WHEN topic_suppression.id IS NOT NULL THEN 'topic' END, "
        "CASE WHEN domain_suppression.id IS NOT NULL THEN 'domain' END)"
    ),
    "left_out": _always(
        "CASE WHEN contact.id IN (SELECT contact_id FROM audience_member "
        "WHERE audience_id = :audience_id AND kind = 'left_out') THEN 'by_hand' END"
    ),
    "needs": _needs_sql,
    "duplicate": _always("CASE WHEN contact.id IN (SELECT id FROM shared) THEN 'same_address' END"),
    "own_limit": _always(
        "CASE WHEN contact.id IN (SELECT contact_id FROM had_enough WHERE at_most = 'week') THEN 'week' "
        "WHEN contact.id IN (SELECT contact_id FROM had_enough WHERE at_most = 'month') THEN 'month' END"
    ),
    "recent": _recent_sql,
    "again": _again_sql,
    "by_mail": _always("CASE WHEN contact.address_folded IS NOT NULL THEN 'has_address' END"),
    "postal": _always(_POSTAL),
    "no_post": _always(
        "CASE WHEN contact.id IN (SELECT contact_id FROM post_refusal) THEN 'no_post' "
        "WHEN consent.state = 'left' THEN 'left' WHEN consent.paused_until > :now THEN 'paused' END"
    ),
    "printed": _always(
        "CASE WHEN contact.id IN (SELECT contact_id FROM printed_letter JOIN printing "
        "ON printing.id = printed_letter.printing_id WHERE printing.campaign_id = :campaign_id "
        "AND printing.printed_at IS NOT NULL) THEN 'printed' END"
    ),
}
