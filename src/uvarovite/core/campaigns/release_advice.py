"""What is worth a look before a release, beyond the words of the message: who it comes from, and what people got before.

Each row says what is meant and what to do; the services find the facts.
"""

import re
from collections.abc import Mapping

_DOMAIN = re.compile(r"(?:[\w-]+\.)+[^\W\d_]{2,}", re.UNICODE)

RELEASE_ADVICE: Mapping[str, str] = {
    "same_subject": "“{campaign}” went out with the same subject on {day}. Readers take this for the same message.",
    "foreign_sender": "The sender's name speaks of {domain}, and the address is at {own}. "
    "Mail programs warn of that as of a fraud.",
    "heavy_pictures": "The pictures have {size} MB together. On a telephone the message shows late; take smaller ones.",
    "faint": "How letters look makes {what} hard to read: {ratio} to 1, and 4.5 is the least. Set-up, Letters has colours.",
}
# Where each is looked at, in the run sheet.
STOPS: Mapping[str, str] = {
    "same_subject": "words",
    "foreign_sender": "pace",
    "heavy_pictures": "words",
    "faint": "words",
}

# What all pictures of a letter weigh at most before it is told, in bytes.
HEAVY = 2 << 20


def domain_in_name(name: str, address: str) -> str | None:
    """A domain that a sender's name speaks of and that is not the one of its address, nor one above or below it."""
    own = address.rpartition("@")[2].casefold()
    for found in _DOMAIN.findall(name.casefold()):
        if found != own and not own.endswith(f".{found}") and not found.endswith(f".{own}"):
            return str(found)
    return None
