"""Passwords, by argon2id (RFC 9106), and secrets that are known by their hash alone."""

import hashlib
import secrets

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from argon2.profiles import RFC_9106_LOW_MEMORY

from uvarovite.services.errors import BadInput

SHORTEST_PASSWORD = 10

_hasher = PasswordHasher.from_parameters(RFC_9106_LOW_MEMORY)
# Verified against when the account is unknown, so that both answers take the same time.
_NOBODY = _hasher.hash(secrets.token_hex(16))


def hash_password(password: str) -> str:
    """What is kept of a password. Raises BadInput for one that is too short."""
    if len(password) < SHORTEST_PASSWORD:
        raise BadInput("short_password", f"A password has at least {SHORTEST_PASSWORD} characters.")
    return _hasher.hash(password)


def is_right(password_hash: str | None, password: str) -> bool:
    """Is it the password? Nobody's takes as long to look at as somebody's."""
    try:
        return _hasher.verify(password_hash or _NOBODY, password) and password_hash is not None
    except (VerifyMismatchError, InvalidHashError):
        return False


def hash_secret(token: str) -> str:
    """What is kept of a token that we made: it is long and random, so that a quick hash is enough."""
    return hashlib.sha256(token.encode()).hexdigest()
