"""What three rooms need: addresses, money, instants and folded text."""

from uvarovite.core.values.addresses import ADDRESS_FAULTS, Address, AddressFault, read_address, wire_form
from uvarovite.core.values.folding import fold
from uvarovite.core.values.money import CURRENCIES, Money
from uvarovite.core.values.origins import origin_key
from uvarovite.core.values.stored import Json, StoredForm, UnknownForm, form_of

__all__ = [
    "ADDRESS_FAULTS",
    "CURRENCIES",
    "Address",
    "AddressFault",
    "Json",
    "Money",
    "StoredForm",
    "UnknownForm",
    "fold",
    "form_of",
    "origin_key",
    "read_address",
    "wire_form",
]
