"""Where mail comes back to that cannot be delivered: an envelope sender of its own for each delivery, signed.

The token stands in base32 (RFC 4648 section 6), without padding: local parts may be folded to one case on their way (RFC
5321 section 2.4 allows nobody to do so, and some do), which base64 would not survive.
"""

import base64
import binascii
import re

from uvarovite.core.responses.tokens import Keyring, Purpose, TokenWriter, read_raw_token

_BEGIN = "return+"
# 28 bytes in base32; with what stands before it 52 characters, of 64 that a local part may have.
_ADDRESS = re.compile(r"return\+([a-z2-7]{45})@(.+)", re.IGNORECASE)


def return_address(writer: TokenWriter, delivery_id: int, domain: str) -> str:
    """The envelope sender of a delivery, at a domain whose mail comes to us."""
    token = base64.b32encode(writer.raw(Purpose.RETURN, delivery_id)).decode().rstrip("=").lower()
    return f"{_BEGIN}{token}@{domain}"


def read_return_address(address: str, keyring: Keyring) -> int | None:
    """The delivery that an envelope sender is of; None when it is not ours, or forged."""
    found = _ADDRESS.fullmatch(address)
    if found is None:
        return None
    try:
        raw = base64.b32decode(found[1].upper() + "===")
    except (binascii.Error, ValueError):
        return None
    token = read_raw_token(raw, Purpose.RETURN, keyring)
    return token.delivery_id if token else None
