"""Which column of a file goes into which field."""

import re
import unicodedata
from collections.abc import Sequence

from uvarovite.core.contacts.fields import FieldMap
from uvarovite.core.values import fold

# What people call the standard fields in files, beyond key and label; folded, letters and digits only.
_ALIASES: dict[str, tuple[str, ...]] = {
    "address": ("email", "emailaddress", "mail", "emailadresse", "courriel", "adresemail"),
    "first_name": ("firstname", "forename", "givenname", "given", "vorname", "prenom", "imie"),
    "last_name": ("lastname", "surname", "familyname", "family", "nachname", "nom", "nazwisko"),
    "language": ("lang", "locale", "sprache", "langue"),
    "contact_no": ("contactno", "contactnumber", "memberno", "membernumber", "customerno", "id"),
}


def _plain(name: str) -> str:
    letters = unicodedata.normalize("NFD", fold(name))
    return re.sub(r"[^a-z0-9]", "", letters)


def match_columns(headers: Sequence[str], fields: FieldMap) -> list[str | None]:
    """A field key or None for each header, in order; no field twice, the first column that fits has it."""
    by_name: dict[str, str] = {}
    for key, field in fields.items():
        for name in (key, field.label, *_ALIASES.get(key, ())):
            by_name.setdefault(_plain(name) or name, key)
    matched: list[str | None] = []
    for header in headers:
        found = by_name.get(_plain(header) or header)
        matched.append(None if found in matched else found)
    return matched
