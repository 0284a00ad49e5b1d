"""Passwords of relays and live sources at rest: encrypted with a key that the installation's secret gives, and nowhere shown again."""

import base64

from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF


class SecretLost(Exception):
    """A stored password cannot be opened. Whose doing: the installation's secret key was changed."""


def _fernet(secret: bytes) -> Fernet:
    key = HKDF(algorithm=SHA256(), length=32, salt=None, info=b"relay passwords").derive(secret)
    return Fernet(base64.urlsafe_b64encode(key))


def seal(text: str, secret: bytes) -> str:
    """Encrypt a password."""
    return _fernet(secret).encrypt(text.encode()).decode("ascii")


def unseal(sealed: str, secret: bytes) -> str:
    """Decrypt a password. Raises SecretLost."""
    try:
        return _fernet(secret).decrypt(sealed.encode("ascii")).decode()
    except InvalidToken as fault:
        raise SecretLost("The password was stored under another secret key; enter it again.") from fault
