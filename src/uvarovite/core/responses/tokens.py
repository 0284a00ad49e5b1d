"""Tokens: what a link in a message says about whom it belongs to, signed, and nothing that can be read or guessed.

    1 byte key id | 1 byte purpose | 8 bytes delivery | 2 bytes number | 16 bytes of HMAC-SHA256 (RFC 2104)

in base64url without padding (RFC 4648 section 5): 38 characters. Keys are derived from the installation's secret by
HKDF (RFC 5869), one for each key id, so that a new key can be taken while old links go on working.
"""

import base64
import binascii
import hashlib
import struct
from binascii import b2a_base64
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from hashlib import sha256
from hmac import compare_digest

from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

_HEAD = struct.Struct(">BBQH")
_MAC_BYTES = 16
_URL_SAFE = bytes.maketrans(b"+/", b"-_")


_Padded = tuple["hashlib._Hash", "hashlib._Hash"]


class Purpose(IntEnum):
    """What a token may be used for; one made for a click can never unsubscribe."""

    OPEN = 1
    CLICK = 2
    UNSUBSCRIBE = 3
    RETURN = 4
    SIGN_UP = 5
    SHOWN = 6
    COUNTED_OPEN = 7
    COUNTED_CLICK = 8
    COPY = 9
    PUBLIC_COPY = 10
    UNSEEN = 11
    LEAVE_WELCOME = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Token:
    """`number` is the link's number for a click, else 0. What has no delivery names something else by that number: the run of
    what is counted or for everybody, who signed up, or the second in which a form was shown.
    """

    purpose: Purpose
    delivery_id: int
    number: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Keyring:
    """Signing keys by id; new tokens are signed with `current`."""

    keys: Mapping[int, bytes]
    current: int
    _padded: dict[int, _Padded] = field(default_factory=dict, init=False, repr=False, compare=False)

    def padded(self, key_id: int) -> _Padded:
        """The two pads of HMAC (RFC 2104, section 2) with a key of at most 64 bytes, hashed already. Raises KeyError."""
        known = self._padded.get(key_id)
        if known is None:
            block = self.keys[key_id].ljust(64, b"\0")
            pads = (bytes(byte ^ one for byte in block) for one in (0x36, 0x5C))
            inner, outer = map(sha256, pads)
            known = self._padded[key_id] = (inner, outer)
        return known


def derive_keyring(secret: bytes, key_ids: tuple[int, ...] = (1,), *, rehearsed: bool = False) -> Keyring:
    """The keys of an installation; the last id is the current one. The secret has at least 16 bytes.

    Those of rehearsals are others: no link of theirs is taken for a real one.
    """
    if len(secret) < 16:
        raise ValueError("the secret key needs at least 16 bytes")
    info = b"rehearsed link token %d" if rehearsed else b"link token %d"
    keys = {
        key_id: HKDF(algorithm=SHA256(), length=32, salt=None, info=info % key_id).derive(secret) for key_id in key_ids
    }
    return Keyring(keys=keys, current=key_ids[-1])


class TokenWriter:
    """Signs tokens with one key: what is the same for all of them is worked out once, since a letter has many.

    Raises KeyError for a key that the ring has not.
    """

    def __init__(self, keyring: Keyring, key_id: int | None = None) -> None:
        self._key_id = key_id or keyring.current
        self._padded = keyring.padded(self._key_id)

    def text(self, purpose: int, delivery_id: int, number: int = 0) -> str:
        """The token's text; `purpose` is the number of one."""
        raw = self.raw(purpose, delivery_id, number)
        return b2a_base64(raw, newline=False).translate(_URL_SAFE, b"=").decode("ascii")

    def raw(self, purpose: int, delivery_id: int, number: int = 0) -> bytes:
        """The token's bytes."""
        head = _HEAD.pack(self._key_id, purpose, delivery_id, number)
        return head + _mac(self._padded, head)


def _mac(padded: _Padded, head: bytes) -> bytes:
    # The library's own function takes thirty times as long: it looks the algorithm up each time.
    inner, outer = padded[0].copy(), padded[1].copy()
    inner.update(head)
    outer.update(inner.digest())
    return outer.digest()[:_MAC_BYTES]


def sign_token(token: Token, keyring: Keyring, key_id: int | None = None) -> str:
    """The token's text."""
    return TokenWriter(keyring, key_id).text(token.purpose, token.delivery_id, token.number)


def read_token(text: str, purpose: Purpose | frozenset[Purpose], keyring: Keyring) -> Token | None:
    """The token of a text, or None when it is not ours, forged, or made for another purpose than this, or one of these."""
    try:
        raw = base64.b64decode(text.encode("ascii") + b"=" * (-len(text) % 4), altchars=b"-_", validate=True)
    except (UnicodeEncodeError, binascii.Error, ValueError):
        return None
    return read_raw_token(raw, purpose, keyring)


def read_raw_token(raw: bytes, purpose: Purpose | frozenset[Purpose], keyring: Keyring) -> Token | None:
    """The token of some bytes, or None."""
    if len(raw) != _HEAD.size + _MAC_BYTES:
        return None
    head = raw[: _HEAD.size]
    key_id, stated, delivery_id, number = _HEAD.unpack(head)
    if (
        key_id not in keyring.keys
        or not compare_digest(_mac(keyring.padded(key_id), head), raw[_HEAD.size :])
        or stated not in (purpose if isinstance(purpose, frozenset) else (purpose,))
    ):
        return None
    return Token(purpose=Purpose(stated), delivery_id=delivery_id, number=number)
