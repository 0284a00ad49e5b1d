"""Addresses of one delivery, signed: where mail comes back to that cannot be delivered, and where one writes to leave.

The token stands in base32 (RFC 4648 section 6), without padding: local parts may be folded to one case on their way (RFC
5321 section 2.4 allows nobody to do so, and some do), which base64 would not survive.
"""

import base64
import binascii
import re

from uvarovite.core.responses.tokens import Keyring, Purpose, TokenWriter, read_raw_token

# 28 bytes in base32; with what stands before it 52 characters, of 64 that a local part may have.
_ADDRESS = re.compile(r"(return|leave)\+([a-z2-7]{45})@(.+)", re.IGNORECASE)
_MEANT_FOR = {"return": Purpose.RETURN, "leave": Purpose.UNSUBSCRIBE}


def return_address(writer: TokenWriter, delivery_id: int, domain: str) -> str:
    """The envelope sender of a delivery, at a domain whose mail comes to us."""
    return _address("return", writer, delivery_id, domain)


def leave_address(writer: TokenWriter, delivery_id: int, domain: str) -> str:
    """Where one writes to leave the topic of a delivery, whatever one writes."""
    return _address("leave", writer, delivery_id, domain)


def read_return_address(address: str, keyring: Keyring) -> int | None:
    """The delivery that an envelope sender is of; None when it is not ours, or forged."""
    return _read("return", address, keyring)


def read_leave_address(address: str, keyring: Keyring) -> int | None:
    """The delivery whose reader writes there to leave; None when it is not ours, or forged."""
    return _read("leave", address, keyring)


def _address(meant: str, writer: TokenWriter, delivery_id: int, domain: str) -> str:
    token = base64.b32encode(writer.raw(_MEANT_FOR[meant], delivery_id)).decode().rstrip("=").lower()
    return f"{meant}+{token}@{domain}"


def _read(meant: str, address: str, keyring: Keyring) -> int | None:
    found = _ADDRESS.fullmatch(address)
    if found is None or found[1].lower() != meant:
        return None
    try:
        raw = base64.b32decode(found[2].upper() + "===")
    except (binascii.Error, ValueError):
        return None
    token = read_raw_token(raw, _MEANT_FOR[meant], keyring)
    return token.delivery_id if token else None
