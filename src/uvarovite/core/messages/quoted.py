"""Bodies as quoted-printable (RFC 2045, section 6.7): constant stretches once, a person's own between soft line breaks.

A constant stretch is encoded as if a line began with it. Each person's own begins and ends with a soft line break, so that it
does not matter how long it is, and the stretch behind it begins a line again.
"""

from binascii import b2a_qp
from functools import lru_cache

from uvarovite.core.inlay.run import Encoding

# A line has at most 76 signs, with the = of its soft line break (RFC 2045, section 6.7, rule 5).
_SHORT = 75
# What is longer is somebody's letter rather than a name, and comes back seldom.
_REMEMBERED = 400


def quoted_fixed(text: str) -> str:
    """A constant stretch, behind whose last line there is room for a soft line break."""
    quoted = b2a_qp(_with_crlf(text)).decode("ascii").replace("=\n", "=\r\n")
    last = quoted.rfind("\n") + 1
    if len(quoted) - last <= _SHORT:
        return quoted
    cut = last + _SHORT // 2
    while "=" in quoted[cut - 2 : cut]:  # an encoded sign is never cut
        cut -= 1
    return f"{quoted[:cut]}=\r\n{quoted[cut:]}"


def quoted_own(text: str) -> str:
    """A person's own, or nothing."""
    if not text:
        return ""
    if text.isascii() and text.isprintable() and "=" not in text:
        if len(text) <= _SHORT:
            return f"=\r\n{text}=\r\n"
        return "=\r\n".join(["", *(text[at : at + _SHORT] for at in range(0, len(text), _SHORT)), ""])
    return _often(text) if len(text) <= _REMEMBERED else f"=\r\n{quoted_fixed(text)}=\r\n"


@lru_cache(maxsize=4_096)
def _often(text: str) -> str:
    """Names, amounts and footers come back for many people."""
    return f"=\r\n{quoted_fixed(text)}=\r\n"


def _with_crlf(text: str) -> bytes:
    return text.replace("\r\n", "\n").replace("\r", "\n").replace("\n", "\r\n").encode("utf-8", "replace")


QUOTED = Encoding(fixed=quoted_fixed, own=quoted_own)
