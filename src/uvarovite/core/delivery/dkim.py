"""Signatures by which receiving systems know whose mail it is (DKIM, RFC 6376; Ed25519 by RFC 8463; RSA keys by RFC 8301).

Headers are signed relaxed, the body simple: it is 7-bit and encoded, so that nothing on its way has a reason to touch it.
"""

import hashlib
import re
from base64 import b64decode, b64encode
from binascii import Error as NoBase64
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
from cryptography.hazmat.primitives.asymmetric.padding import PKCS1v15
from cryptography.hazmat.primitives.asymmetric.rsa import RSAPrivateKey, generate_private_key
from cryptography.hazmat.primitives.asymmetric.utils import Prehashed

# RFC 8301 section 3.2 asks for 1024 bits at least and advises 2048, which still fit into one DNS answer.
RSA_BITS = 2_048

# What a reader, or their mail program, acts upon. RFC 8058 section 4 asks for the two about leaving. Each is named once more
# than it occurs, so that nobody can add one (RFC 6376 section 8.15).
SIGNED = (
    "from", "reply-to", "to", "subject", "date", "message-id", "mime-version", "content-type", "list-id",
    "list-unsubscribe", "list-unsubscribe-post", "feedback-id",
)  # fmt: skip

_WHITE = re.compile(rb"[ \t]+")
_NAME = re.compile(r"[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?(?:\.[a-z0-9](?:[a-z0-9-]{0,61}[a-z0-9])?)*")


class Algorithm(StrEnum):
    """How it is signed."""

    RSA = "rsa-sha256"
    ED25519 = "ed25519-sha256"


_KEY_TYPES = {Algorithm.RSA: "rsa", Algorithm.ED25519: "ed25519"}

PrivateKey = RSAPrivateKey | Ed25519PrivateKey


class KeyFault(ValueError):
    """What is no key, no domain or no selector. Whose doing: whoever gave it. Trying again is of no use."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SigningKey:
    """A key of a domain; its public half stands in the DNS at `selector`._domainkey.`domain`."""

    domain: str
    selector: str
    private: PrivateKey

    def __post_init__(self) -> None:
        if not _NAME.fullmatch(self.domain) or not _NAME.fullmatch(self.selector):
            raise KeyFault(f"no domain and selector: {self.domain!r}, {self.selector!r}")

    @property
    def algorithm(self) -> Algorithm:
        """How it signs."""
        return Algorithm.RSA if isinstance(self.private, RSAPrivateKey) else Algorithm.ED25519

    @property
    def record_name(self) -> str:
        """Where its public half is published."""
        return f"{self.selector}._domainkey.{self.domain}"

    @property
    def record(self) -> str:
        """What is published there, as the text of a TXT record (RFC 6376 section 3.6.1)."""
        return f"v=DKIM1; k={_KEY_TYPES[self.algorithm]}; p={b64encode(self._published()).decode()}"

    def _published(self) -> bytes:
        public = self.private.public_key()
        if self.algorithm is Algorithm.ED25519:
            return public.public_bytes(serialization.Encoding.Raw, serialization.PublicFormat.Raw)
        return public.public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)

    def is_published_by(self, texts: Sequence[str]) -> bool:
        """Is one of the TXT records that were found there this key's? Their own order and spaces do not matter."""
        return any(self._is_this(_tags(text)) for text in texts)

    def _is_this(self, tags: dict[str, str]) -> bool:
        try:
            published = b64decode(re.sub(r"\s+", "", tags.get("p", "")), validate=True)
        except NoBase64:
            return False
        kind_fits = tags.get("k", "rsa") == _KEY_TYPES[self.algorithm]
        return tags.get("v", "DKIM1") == "DKIM1" and kind_fits and published == self._published()

    def sign(self, told: bytes) -> bytes:
        """The signature of some bytes."""
        if isinstance(self.private, RSAPrivateKey):
            return self.private.sign(hashlib.sha256(told).digest(), PKCS1v15(), Prehashed(hashes.SHA256()))
        # RFC 8463 section 3: what is signed is the hash.
        return self.private.sign(hashlib.sha256(told).digest())


def _tags(text: str) -> dict[str, str]:
    """A list of tags (RFC 6376 section 3.2)."""
    pairs = (part.partition("=") for part in text.split(";"))
    return {name.strip(): value.strip() for name, _, value in pairs if name.strip()}


def new_private_key(algorithm: Algorithm) -> PrivateKey:
    """A new key, from the system's own randomness."""
    if algorithm is Algorithm.ED25519:
        return Ed25519PrivateKey.generate()
    return generate_private_key(public_exponent=65_537, key_size=RSA_BITS)


def key_to_pem(private: PrivateKey) -> str:
    """A key as text (PKCS #8), to be sealed."""
    kept = private.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return kept.decode()


def key_from_pem(pem: str) -> PrivateKey:
    """A key from its text. Raises KeyFault, also for RSA of less than 1024 bits."""
    try:
        private = serialization.load_pem_private_key(pem.encode(), None)
    except (ValueError, TypeError) as fault:
        raise KeyFault("This is no private key, or it is protected by a password.") from fault
    if isinstance(private, RSAPrivateKey) and private.key_size < 1_024:
        raise KeyFault(f"An RSA key of {private.key_size} bits is too short; 2048 are right.")
    if not isinstance(private, RSAPrivateKey | Ed25519PrivateKey):
        raise KeyFault("Only RSA and Ed25519 keys can sign mail.")
    return private


def signed(raw: bytes, keys: Sequence[SigningKey], at: datetime) -> bytes:
    """A message with a signature of each key in front of it. `at` is when it is signed, to the second."""
    if not keys:
        return raw
    head, _, body = raw.partition(b"\r\n\r\n")
    digest = b64encode(hashlib.sha256(_simple_body(body)).digest()).decode()
    fields = _fields(head)
    told = _relaxed(fields)
    names = [name for name in SIGNED for _ in range(sum(name == one for one, _ in fields) + 1)]
    return b"".join(_signature(key, names, told, digest, at) for key in keys) + raw


def _signature(key: SigningKey, names: list[str], told: bytes, digest: str, at: datetime) -> bytes:
    listed = ":\r\n ".join(":".join(names[place : place + 5]) for place in range(0, len(names), 5))
    written = (
        f"DKIM-Signature: v=1; a={key.algorithm}; c=relaxed/simple; d={key.domain};\r\n s={key.selector};"
        f" t={int(at.timestamp())};\r\n h={listed};\r\n bh={digest};\r\n b="
    )
    relaxed = _WHITE.sub(b" ", written.partition(": ")[2].replace("\r\n", "").encode()).strip()
    signature = b64encode(key.sign(told + b"dkim-signature:" + relaxed)).decode()
    folded = "\r\n ".join(signature[place : place + 72] for place in range(0, len(signature), 72))
    return f"{written}{folded}\r\n".encode()


def _simple_body(body: bytes) -> bytes:
    """The body without empty lines at its end (RFC 6376 section 3.4.3)."""
    return body.rstrip(b"\r\n") + b"\r\n"


def _fields(head: bytes) -> list[tuple[str, bytes]]:
    """Header fields as (name in small letters, value as it stands), in their order."""
    found = []
    for field in re.split(rb"\r\n(?![ \t])", head):
        name, _, value = field.partition(b":")
        found.append((name.strip().lower().decode("latin-1"), value))
    return found


def _relaxed(fields: list[tuple[str, bytes]]) -> bytes:
    """The signed header fields in the form that survives refolding (section 3.4.2), the last one of each name first (5.4.2)."""
    lines = []
    for name in SIGNED:
        for one, value in reversed(fields):
            if one == name:
                lines.append(name.encode() + b":" + _WHITE.sub(b" ", value.replace(b"\r\n", b"")).strip() + b"\r\n")
    return b"".join(lines)
