"""Messages one after the other in a file (mbox, RFC 4155)."""

import re
from datetime import UTC, datetime

_WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
# A line that looks like the beginning of the next message, quoted any number of times already.
_LOOKS_LIKE_ONE = re.compile(rb"^(>*From )", re.MULTILINE)


def mbox_entry(raw: bytes, sender: str, at: datetime) -> bytes:
    """One message of a file: who it is from and when, its bytes with the line ends of a file, and a blank line.

    `raw` ends its lines with CRLF; `sender` is an address in ASCII. Lines that begin with "From " are quoted, also those that
    are quoted already, so that taking one ">" away gives the message back.
    """
    at = at.astimezone(UTC)
    clock = f"{_WEEKDAYS[at.weekday()]} {_MONTHS[at.month - 1]} {at.day:2} {at:%H:%M:%S %Y}"
    body = _LOOKS_LIKE_ONE.sub(rb">\1", raw.replace(b"\r\n", b"\n"))
    return f"From {sender} {clock}\n".encode("ascii") + body.rstrip(b"\n") + b"\n\n"
