"""Can a domain take mail? What its name servers say, judged (RFC 5321 section 5.1; RFC 7505 for the null MX)."""

from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from datetime import timedelta
from enum import StrEnum

from uvarovite.core.contacts.fields import Field, FieldType


class Verdict(StrEnum):
    """What is known of an address through its domain. UNCHECKED: nobody has asked, or nobody has answered yet."""

    UNCHECKED = "not checked"
    TAKES_MAIL = "takes mail"
    CANNOT = "cannot take mail"


# For the criteria: asked like a choice, and kept with the domain rather than with each person.
VERIFICATION = Field(
    key="verification",
    label="Verification",
    type=FieldType.CHOICE,
    choices=tuple(Verdict),
    asked_only=True,
    help="Whether the domain of the address can take mail, as its name servers say.",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class NameAnswer:
    """What name servers said of a domain. `answered` is False when none did; `mail_hosts` are the MX, best first.

    `exists` is False for a name that is not there at all (NXDOMAIN); `has_address` tells of A or AAAA.
    """

    answered: bool
    exists: bool = True
    mail_hosts: Sequence[str] = ()
    has_address: bool = False


# Asks for a domain; never raises, an unreachable server is an answer as well.
LookUp = Callable[[str], Awaitable[NameAnswer]]


@dataclass(frozen=True, slots=True, kw_only=True)
class DomainVerdict:
    """A verdict, its reason in words, and when to ask again."""

    verdict: Verdict
    reason: str
    again_in: timedelta


# Mail hosts move seldom; a domain that is gone may have been forgotten to be paid for.
_WHEN_FINE, _WHEN_NOT, _WHEN_SILENT = timedelta(days=30), timedelta(days=1), timedelta(minutes=5)
_NULL_MX = (".", "")


def domain_verdict(answer: NameAnswer) -> DomainVerdict:
    """What a name servers' answer means for mail."""
    if not answer.answered:
        return DomainVerdict(verdict=Verdict.UNCHECKED, reason="its name servers did not answer", again_in=_WHEN_SILENT)
    if not answer.exists:
        return DomainVerdict(verdict=Verdict.CANNOT, reason="there is no such domain", again_in=_WHEN_NOT)
    if answer.mail_hosts:
        if all(host in _NULL_MX for host in answer.mail_hosts):
            reason = "the domain says that it takes no mail (null MX)"
            return DomainVerdict(verdict=Verdict.CANNOT, reason=reason, again_in=_WHEN_NOT)
        return DomainVerdict(
            verdict=Verdict.TAKES_MAIL, reason=f"mail goes to {answer.mail_hosts[0]}", again_in=_WHEN_FINE
        )
    if answer.has_address:
        reason = "it names no mail host, but has an address of its own"
        return DomainVerdict(verdict=Verdict.TAKES_MAIL, reason=reason, again_in=_WHEN_FINE)
    return DomainVerdict(verdict=Verdict.CANNOT, reason="it has neither a mail host nor an address", again_in=_WHEN_NOT)
