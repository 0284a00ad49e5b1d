"""What a domain's own records say of mail from it: who may send it (SPF, RFC 7208), and what becomes of mail that cannot be
shown to be its own (DMARC, RFC 7489). Nothing is evaluated for a certain host: that is for receivers.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum


class Standing(StrEnum):
    """How something stands."""

    WELL = "well"
    ADVICE = "advice"
    WRONG = "wrong"


@dataclass(frozen=True, slots=True, kw_only=True)
class DomainWord:
    """What one kind of record says, in words with what to do. `record` is the record itself, empty where there is none."""

    about: str
    standing: Standing
    record: str
    words: str


_ALL = {
    "-all": (Standing.WELL, "Hosts that are not named may not send for it."),
    "~all": (Standing.WELL, "Mail from hosts that are not named is suspect."),
    "?all": (Standing.ADVICE, "It says nothing about hosts that are not named: end it with ~all or -all."),
    "+all": (Standing.WRONG, "Every host in the world may send for it. End it with -all."),
    "all": (Standing.WRONG, "Every host in the world may send for it. End it with -all."),
}


def spf_word(texts: Sequence[str], domain: str) -> DomainWord:
    """What the SPF record says among the texts at the domain that undeliverable mail comes back to."""
    found = [text for text in texts if text.lower() == "v=spf1" or text.lower().startswith("v=spf1 ")]
    if not found:
        return _word(
            "SPF", Standing.WRONG, "", f"{domain} does not say who may send for it. Publish one that names your relay."
        )
    if len(found) > 1:
        # RFC 7208 section 4.5: more than one is an error, and none of them counts.
        return _word(
            "SPF", Standing.WRONG, " | ".join(found), "There are several, so that none of them counts. Join them."
        )
    terms = found[0].lower().split()[1:]
    ends = next((term for term in terms if term in _ALL), None)
    if ends is None:
        if any(term.startswith("redirect=") for term in terms):
            return _word("SPF", Standing.WELL, found[0], "Another domain's record holds. Does that name your relay?")
        return _word(
            "SPF",
            Standing.ADVICE,
            found[0],
            "It says nothing about hosts that are not named: end it with ~all or -all.",
        )
    standing, words = _ALL[ends]
    return _word("SPF", standing, found[0], f"{words} Does it name your relay?" if standing is Standing.WELL else words)


def dmarc_word(texts: Sequence[str], *, from_domain: str, envelope_domain: str, is_signed: bool) -> DomainWord:
    """What the DMARC record says of mail that comes from a domain, and whether ours can be shown to be its own."""
    found = [text for text in texts if text.replace(" ", "").lower().startswith("v=dmarc1")]
    if not found:
        return _word(
            "DMARC", Standing.ADVICE, "",
            f"{from_domain} does not say what becomes of mail that is not its own. Large providers ask for one: "
            f"publish “v=DMARC1; p=none” at _dmarc.{from_domain} to begin with.",
        )  # fmt: skip
    if len(found) > 1:
        return _word(
            "DMARC", Standing.WRONG, " | ".join(found), "There are several, so that none of them counts. Keep one."
        )
    tags = dict(_tag(part) for part in found[0].split(";") if "=" in part)
    policy = tags.get("p", "")
    if policy not in _POLICIES:
        return _word("DMARC", Standing.WRONG, found[0], "It names no policy: p is none, quarantine or reject.")
    by_envelope = _aligned(envelope_domain, from_domain, strict=tags.get("aspf") == "s")
    ways = [*(["its signature"] if is_signed else []), *(["its envelope"] if by_envelope else [])]
    if not ways:
        standing = Standing.ADVICE if policy == "none" else Standing.WRONG
        return _word(
            "DMARC", standing, found[0],
            f"Nothing shows that our mail is its own, and {_POLICIES[policy]}. Sign it with a key of {from_domain}, or let "
            f"undeliverable mail come back to a domain under it.",
        )  # fmt: skip
    return _word(
        "DMARC",
        Standing.WELL,
        found[0],
        f"Our mail is shown to be its own by {' and '.join(ways)}; of other mail, {_POLICIES[policy]}.",
    )


_POLICIES = {
    "none": "nothing is done about it",
    "quarantine": "receivers put it among the suspect mail",
    "reject": "receivers refuse it",
}


def _word(about: str, standing: Standing, record: str, words: str) -> DomainWord:
    return DomainWord(about=about, standing=standing, record=record, words=words)


def _tag(part: str) -> tuple[str, str]:
    name, _, value = part.partition("=")
    return name.strip().lower(), value.strip().lower()


def _aligned(one: str, other: str, *, strict: bool) -> bool:
    """Do two domains belong together (RFC 7489 section 3.1)? Relaxed, one is the other or stands under it.

    Receivers ask a list of public suffixes, by which two that stand beside each other may belong together as well; we only
    say of what certainly does.
    """
    return one == other or (not strict and (one.endswith(f".{other}") or other.endswith(f".{one}")))
