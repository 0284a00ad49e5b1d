"""What a relay says that it can, in its answer to EHLO (RFC 5321 section 4.1.1.1)."""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Capabilities:
    """`largest_bytes` is the largest message that it takes, None where it does not say (RFC 1870 section 4)."""

    pipelining: bool = False
    starttls: bool = False
    smtputf8: bool = False
    eight_bit: bool = False
    takes_size: bool = False
    largest_bytes: int | None = None
    log_ins: frozenset[str] = frozenset()


def capabilities_of(lines: Sequence[str]) -> Capabilities:
    """From the lines of the answer to EHLO, the first of which is the server's name."""
    offered: dict[str, list[str]] = {}
    for line in lines[1:]:
        # Some old servers write AUTH=LOGIN besides the real thing.
        word, *parameters = line.upper().replace("AUTH=", "AUTH ", 1).split() or [""]
        offered.setdefault(word, []).extend(parameters)
    size = next(iter(offered.get("SIZE", [])), "")
    # A number that no relay can mean is as good as none; 0 says that there is no limit.
    stated = int(size) if size.isascii() and size.isdigit() and len(size) < 19 else 0
    return Capabilities(
        pipelining="PIPELINING" in offered,
        starttls="STARTTLS" in offered,
        smtputf8="SMTPUTF8" in offered,
        eight_bit="8BITMIME" in offered,
        takes_size="SIZE" in offered,
        largest_bytes=stated or None,
        log_ins=frozenset(offered.get("AUTH", [])),
    )
