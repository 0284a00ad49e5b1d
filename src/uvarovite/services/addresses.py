"""E-mail addresses that somebody types."""

from uvarovite.core.values import AddressFault, read_address
from uvarovite.services.errors import BadInput


def require_address(text: str) -> str:
    """A usable address. Raises BadInput with the reason."""
    address = read_address(text)
    if isinstance(address, AddressFault):
        raise BadInput(address.code, address.message)
    return address.text
