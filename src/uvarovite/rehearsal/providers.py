"""Simulated mail providers, told apart by the recipient's domain. Decisions are pure; a seed makes them repeatable."""

import hashlib
from dataclasses import dataclass, field

# Seconds of the real world at speed 1; a rehearsal is usually run faster.
GREYLIST_SECONDS = 300.0
RATE_WINDOW_SECONDS = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Provider:
    """How a domain behaves. Shares are in [0, 1]; `per_window` is how many messages it takes in its rate window."""

    domain: str
    manner: str
    greylists: bool = False
    unknown_share: float = 0.0
    per_window: int | None = None
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


def provider_of(address: str) -> Provider:
    """The provider of an address."""
    return PROVIDERS.get(address.rpartition("@")[2].lower(), OTHERS)


def draw(seed: int, *words: str) -> float:
    """A number in [0, 1) that depends on nothing but its arguments."""
    digest = hashlib.sha256("\0".join((str(seed), *words)).encode()).digest()
    return int.from_bytes(digest[:8], "big") / 2**64


@dataclass(slots=True, kw_only=True)
class World:
    """What the providers remember. `speed` compresses their time; `now` comes in seconds with each call."""

    seed: int
    speed: float = 1.0
    first_seen: dict[tuple[str, str], float] = field(default_factory=dict)
    taken: dict[str, list[float]] = field(default_factory=dict)

    def answer_recipient(self, sender: str, recipient: str, now: float) -> str:
        """The reply to RCPT TO, without the final line end."""
        provider = provider_of(recipient)
        local = recipient.rpartition("@")[0].lower()
        if provider.unknown_share and draw(self.seed, "unknown", local) < provider.unknown_share:
            return "550 5.1.1 There is nobody of that name here"
        if provider.greylists:
            first = self.first_seen.setdefault((sender.lower(), recipient.lower()), now)
            left = GREYLIST_SECONDS / self.speed - (now - first)
            if left > 0:
                return f"451 4.7.1 Greylisted, come back in {max(1, round(left))} seconds"
        if provider.per_window is not None:
            window = RATE_WINDOW_SECONDS / self.speed
            recent = [at for at in self.taken.get(provider.domain, []) if at > now - window]
            if len(recent) >= provider.per_window:
                return "450 4.7.28 Too many messages from you, slow down"
            self.taken[provider.domain] = [*recent, now]
        return "250 2.1.5 Recipient ok"
