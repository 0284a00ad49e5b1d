"""Tokens: what a link in a message says about whom it belongs to, signed, and nothing that can be read or guessed.

    1 byte key id | 1 byte purpose | 8 bytes delivery | 2 bytes number | 16 bytes of HMAC-SHA256 (RFC 2104)

in base64url without padding (RFC 4648 section 5): 38 characters. Keys are derived from the installation's secret by
HKDF (RFC 5869), one for each key id, so that a new key can be taken while old links go on working.
"""

import base64
import binascii
import hashlib
import hmac
import struct
from collections.abc import Mapping
from dataclasses import dataclass
from enum import IntEnum
from functools import lru_cache

from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

_HEAD = struct.Struct(">BBQH")
_MAC_BYTES = 16


class Purpose(IntEnum):
    """What a token may be used for; one made for a click can never unsubscribe."""

    OPEN = 1
    CLICK = 2
    UNSUBSCRIBE = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Token:
    """`number` is the link's number for a click, else 0."""

    purpose: Purpose
    delivery_id: int
    number: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Keyring:
    """Signing keys by id; new tokens are signed with `current`."""

    keys: Mapping[int, bytes]
    current: int


def derive_keyring(secret: bytes, key_ids: tuple[int, ...] = (1,)) -> Keyring:
    """The keys of an installation; the last id is the current one. The secret has at least 16 bytes."""
    if len(secret) < 16:
        raise ValueError("the secret key needs at least 16 bytes")
    keys = {
        key_id: HKDF(algorithm=SHA256(), length=32, salt=None, info=b"link token %d" % key_id).derive(secret)
        for key_id in key_ids
    }
    return Keyring(keys=keys, current=key_ids[-1])


def sign_token(token: Token, keyring: Keyring, key_id: int | None = None) -> str:
    """The token's text."""
    key_id = key_id or keyring.current
    head = _HEAD.pack(key_id, token.purpose, token.delivery_id, token.number)
    return base64.urlsafe_b64encode(head + _mac(head, keyring.keys[key_id])).rstrip(b"=").decode("ascii")


def read_token(text: str, purpose: Purpose, keyring: Keyring) -> Token | None:
    """The token of a text, or None when it is not ours, forged, or made for another purpose."""
    try:
        raw = base64.b64decode(text.encode("ascii") + b"=" * (-len(text) % 4), altchars=b"-_", validate=True)
    except (UnicodeEncodeError, binascii.Error, ValueError):
        return None
    if len(raw) != _HEAD.size + _MAC_BYTES:
        return None
    head = raw[: _HEAD.size]
    key_id, stated, delivery_id, number = _HEAD.unpack(head)
    key = keyring.keys.get(key_id)
    if key is None or not hmac.compare_digest(_mac(head, key), raw[_HEAD.size :]) or stated != purpose:
        return None
    return Token(purpose=purpose, delivery_id=delivery_id, number=number)


def _mac(head: bytes, key: bytes) -> bytes:
    made = _keyed(key).copy()
    made.update(head)
    return made.digest()[:_MAC_BYTES]


@lru_cache(maxsize=16)
def _keyed(key: bytes) -> hmac.HMAC:
    """What every HMAC of a key begins with: a letter has a token for each of its links."""
    return hmac.new(key, digestmod=hashlib.sha256)
