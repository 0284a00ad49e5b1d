"""Passwords of relays and live sources at rest: encrypted with a key that the installation's secret gives, bound to what
they were given for, and nowhere shown again.

A password that is stored beside a host would go to any host that somebody writes in its place. So the server, the
account and how the connection is protected are sealed in with it; where one of them is another one, it does not open.
"""

import base64
import json

from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF

from uvarovite.core.delivery.troubles import RelayTrouble, relay_trouble
from uvarovite.services.errors import ServiceRefusal


class SecretLost(ServiceRefusal):
    """A stored password cannot be opened: the installation's key was changed, or the password is for another server.

    Whose doing: whoever changed one of the two. It has to be entered again.
    """

    def __init__(self, trouble: RelayTrouble) -> None:
        self.trouble = trouble
        super().__init__("secret", trouble.message)


def _fernet(secret: bytes) -> Fernet:
    key = HKDF(algorithm=SHA256(), length=32, salt=None, info=b"relay passwords").derive(secret)
    return Fernet(base64.urlsafe_b64encode(key))


def seal(text: str, secret: bytes, *, given_for: str) -> str:
    """Encrypt a password; `given_for` names server, account and protection."""
    return _fernet(secret).encrypt(json.dumps([given_for, text]).encode()).decode("ascii")


def sealed_anew(sealed: str, before: bytes, secret: bytes) -> str | None:
    """A sealed secret under another key; as it is where it opens with that already, None where neither opens it."""
    for key in (secret, before):
        try:
            opened = _fernet(key).decrypt(sealed.encode("ascii"))
        except InvalidToken:
            continue
        return sealed if key == secret else _fernet(secret).encrypt(opened).decode("ascii")
    return None


def unseal(sealed: str, secret: bytes, *, given_for: str) -> str:
    """Decrypt a password that was given for the same. Raises SecretLost."""
    try:
        bound, text = json.loads(_fernet(secret).decrypt(sealed.encode("ascii")))
    except (InvalidToken, ValueError, TypeError) as fault:
        raise SecretLost(relay_trouble("other_key")) from fault
    if bound != given_for:
        raise SecretLost(relay_trouble("other_server"))
    return str(text)
