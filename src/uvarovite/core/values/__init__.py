"""What three rooms need: addresses, money, instants and folded text."""

from uvarovite.core.values.addresses import Address, AddressFault, read_address, wire_form
from uvarovite.core.values.folding import fold
from uvarovite.core.values.money import CURRENCIES, Money
from uvarovite.core.values.origins import origin_key

__all__ = ["CURRENCIES", "Address", "AddressFault", "Money", "fold", "origin_key", "read_address", "wire_form"]
