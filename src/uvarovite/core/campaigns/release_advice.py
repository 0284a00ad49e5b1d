"""What is found in a campaign before its release, beyond the words of its message."""

import re

_DOMAIN = re.compile(r"(?:[\w-]+\.)+[^\W\d_]{2,}", re.UNICODE)

# What all pictures of a letter weigh at most before it is told, in bytes.
HEAVY = 2 << 20


def domain_in_name(name: str, address: str) -> str | None:
    """A domain that a sender's name speaks of and that is not the one of its address, nor one above or below it."""
    own = address.rpartition("@")[2].casefold()
    for found in _DOMAIN.findall(name.casefold()):
        if found != own and not own.endswith(f".{found}") and not found.endswith(f".{own}"):
            return str(found)
    return None
