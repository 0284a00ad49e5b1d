"""Two people whom many tests know: one with all data, one with none."""

from datetime import date
from decimal import Decimal

from tests.support.fields import FIELDS
from uvarovite.core.contacts import Record
from uvarovite.core.values import Money

NOBODY: Record = dict.fromkeys(FIELDS)
ADA: Record = {
    **NOBODY,
    "address": "ada@slatepost.example",
    "first_name": "Ada",
    "last_name": "Thwaite-Gray",
    "language": "en",
    "contact_no": "M-01",
    "membership": "Patron",
    "pledge": Money(amount=Decimal("1250.50"), currency="EUR"),
    "renews_on": date(2026, 10, 5),
    "town": "Skarn",
    "visits_last_year": Decimal("1234.5"),
    "volunteer": True,
}
