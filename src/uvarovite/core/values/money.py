"""An amount with its currency. Amounts of different currencies are never compared or added."""

from dataclasses import dataclass
from decimal import Decimal

# The currencies that a money field can have, with the signs by which files name them.
CURRENCIES: dict[str, tuple[str, ...]] = {
    "EUR": ("€",),
    "GBP": ("£",),
    "USD": ("$", "US$"),
    "CHF": ("Fr.", "SFr."),
    "PLN": ("zł",),
    "CZK": ("Kč",),
    "SEK": ("kr",),
    "JPY": ("¥",),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Money:
    """`amount` in units of `currency` (ISO 4217 code)."""

    amount: Decimal
    currency: str
