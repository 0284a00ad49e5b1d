"""E-mail addresses: syntax (RFC 5321 section 4.1.2, RFC 5322 section 3.4.1, IDNA by RFC 5891) and folding.

The text of an address is kept as it was given, apart from white space at its ends. Comparing uses the folded
form: the local part caseless (no relay that matters tells `Ada@` from `ada@`), the domain in its ASCII form.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from email_validator import EmailNotValidError, validate_email

from uvarovite.core.values.folding import fold
from uvarovite.core.values.sentences import sentence_of

# RFC 5321 section 4.5.3.1.3 allows a path of 256 octets, its angle brackets included.
LONGEST_ADDRESS = 254


@dataclass(frozen=True, slots=True, kw_only=True)
class Address:
    """A usable address. `folded` is its form for comparing; `domain` is ASCII, lower case."""

    text: str
    folded: str
    domain: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressFault:
    """Why a text is no usable address. `code` is one of several, malformed, too_long, no_domain."""

    code: str
    facts: Mapping[str, str | int]

    @property
    def message(self) -> str:
        """It in words, with what would do."""
        return sentence_of(ADDRESS_FAULTS, self.code, self.facts)


# A code that several things can be behind has words for each: `how`, one of the facts, says which.
_NONE = "“{text}” is not an e-mail address: "
ADDRESS_FAULTS: Mapping[str, str] = {
    "too_long": "The address is longer than {most} characters.",
    "several": "There are several addresses in one cell; keep one, or give each a row.",
    "no_domain": "“{text}” has no full domain after the @.",
    "malformed.no_at": _NONE + "the @ is missing.",
    "malformed.before": _NONE + "nothing stands before the @.",
    "malformed.behind": _NONE + "nothing stands behind the @.",
    "malformed.long_local": _NONE + "at most 64 characters stand before the @; these are {long}.",
    "malformed.several_at": _NONE + "it has more than one @.",
    "malformed.space": _NONE + "it has a space in it.",
    "malformed.signs": _NONE + "write it as ada@slatepost.example, without signs around it.",
}


# Whoever composes a message asks for the same address several times in a row.
@lru_cache(maxsize=16)
def wire_form(address: str) -> str:
    """The address as it goes into an envelope: the domain in ASCII, so that only a local part can need SMTPUTF8."""
    found = read_address(address)
    if isinstance(found, AddressFault):
        return address
    return f"{found.text.rpartition('@')[0]}@{found.domain}"


# The common shape, which needs no library: letters, digits and the usual marks, dots only between them.
_PLAIN = re.compile(
    r"[A-Za-z0-9_+-]+(?:\.[A-Za-z0-9_+-]+)*@((?:[A-Za-z0-9](?:[A-Za-z0-9-]{0,61}[A-Za-z0-9])?\.)+[A-Za-z]{2,63})"
)


def _how_malformed(text: str) -> str:
    local, at, domain = text.rpartition("@")
    if not at:
        return "no_at"
    if not local or not domain:
        return "before" if not local else "behind"
    if len(local) > 64:
        return "long_local"
    if text.count("@") > 1:
        return "several_at"
    if re.search(r"\s", text):
        return "space"
    return "signs"


def read_address(text: str) -> Address | AddressFault:
    """Read one address. Several addresses in one text are a fault of their own: which one is meant is unknown."""
    text = text.strip()
    if len(text) > LONGEST_ADDRESS:
        return AddressFault(code="too_long", facts={"most": LONGEST_ADDRESS})
    plain = _PLAIN.fullmatch(text)
    if plain and len(text) - len(plain[1]) <= 65 and "--" not in plain[1][2:4]:
        return Address(text=text, folded=text.lower(), domain=plain[1].lower())
    if text.count("@") > 1 and re.search(r"[;,/\s|]", text):
        return AddressFault(code="several", facts={})
    try:
        # Strict: the part before the @ has at most 64 characters (RFC 5321, section 4.5.3.1.1).
        found = validate_email(text, check_deliverability=False, globally_deliverable=False, strict=True)
    except EmailNotValidError:
        return AddressFault(
            code="malformed",
            facts={"text": text[:80], "how": _how_malformed(text), "long": len(text.rpartition("@")[0])},
        )
    if found.ascii_domain is None or "." not in found.ascii_domain:
        return AddressFault(code="no_domain", facts={"text": text})
    domain = found.ascii_domain.lower()
    return Address(text=found.normalized, folded=f"{fold(found.local_part)}@{domain}", domain=domain)
