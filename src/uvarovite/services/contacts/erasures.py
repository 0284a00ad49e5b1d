"""By what an erased person is known afterwards."""

import hashlib
import hmac
from collections.abc import Callable

Hash = Callable[[str], str]


def address_hasher(secret: bytes) -> Hash:
    """The keyed hash by which an erased address is known (HMAC-SHA-256): without the key it cannot be tried out."""
    key = hashlib.sha256(b"erased addresses" + secret).digest()
    return lambda address_folded: hmac.new(key, address_folded.encode(), hashlib.sha256).hexdigest()
