"""Simulated mail providers, told apart by the recipient's domain: what each does, and the relay that reaches them."""

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

# Seconds of the real world at speed 1; a rehearsal is usually run faster.
GREYLIST_SECONDS = 300.0
RATE_WINDOW_SECONDS = 60.0
LATER_SECONDS = 600.0
HOUR_SECONDS = 3_600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Provider:
    """How a domain behaves. Shares are in [0, 1]; `per_window` and `per_hour` are how many messages it takes from a source.

    `full_share` are people whose mailbox is full for now, `late_share` messages that are refused after they were read. Of
    what was taken a `report_share` comes back later, and a `complaint_share` is complained of.
    """

    domain: str
    manner: str
    greylists: bool = False
    unknown_share: float = 0.0
    full_share: float = 0.0
    late_share: float = 0.0
    report_share: float = 0.0
    complaint_share: float = 0.0
    per_window: int | None = None
    per_hour: int | None = None
    scans_links: bool = False


PROVIDERS: dict[str, Provider] = {
    provider.domain: provider
    for provider in (
        Provider(domain="slatepost.example", manner="accepts everything"),
        Provider(domain="quartzmail.example", manner="greylists: tells strangers to come back later", greylists=True),
        Provider(domain="fjordnet.example", manner="refuses people it does not know", unknown_share=0.04),
        Provider(domain="copperbox.example", manner="limits how fast it takes messages", per_window=40),
        Provider(domain="guildhall.example", manner="accepts everything and scans all links", scans_links=True),
    )
}
OTHERS = Provider(domain="", manner="accepts everything")


class Stage(StrEnum):
    """Where the relay may drop a connection: in answer to a command, in a text, before or after it has taken one."""

    GREETING = "greeting"
    HELLO = "hello"
    MAIL = "mail"
    RECIPIENT = "recipient"
    TEXT = "text"
    END = "end"
    REPLY = "reply"


class Certificate(StrEnum):
    """What the relay shows when TLS begins."""

    NONE = "none"
    ITS_OWN = "its_own"
    OTHER_NAME = "other_name"
    EXPIRED = "expired"


@dataclass(frozen=True, slots=True, kw_only=True)
class Manner:
    """How the relay behaves, whoever it is for.

    `drops` is the share of connections, or messages, that are dropped at a stage; `delay_seconds` is how long each reply
    takes. After `messages_a_connection` it says goodbye; more than `connections` at once it turns away.
    """

    drops: Mapping[Stage, float] = field(default_factory=dict)
    delay_seconds: float = 0.0
    pipelining: bool = True
    smtputf8: bool = True
    largest_bytes: int = 40_000_000
    certificate: Certificate = Certificate.NONE
    must_encrypt: bool = False
    messages_a_connection: int | None = None
    connections: int | None = None
    refuses_us: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenario:
    """A way for the world to be, by name: the relay's manner, and what each provider does.

    Not `is_quick` are those that take their time in earnest, or are about certificates: no run is rehearsed in them.
    """

    name: str
    about: str
    is_quick: bool = True
    manner: Manner = field(default_factory=Manner)
    providers: Mapping[str, Provider] = field(default_factory=lambda: PROVIDERS)
    others: Provider = OTHERS

    def provider_of(self, address: str) -> Provider:
        """The provider of an address."""
        return self.providers.get(address.rpartition("@")[2].lower(), self.others)


def draw(seed: int, *words: str) -> float:
    """A number in [0, 1) that depends on nothing but its arguments."""
    digest = hashlib.sha256("\0".join((str(seed), *words)).encode()).digest()
    return int.from_bytes(digest[:8], "big") / 2**64
