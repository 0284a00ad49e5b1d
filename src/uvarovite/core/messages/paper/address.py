"""An address as it stands on an envelope, and by what letters are sorted."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from babel import Locale

from uvarovite.core.contacts import Record
from uvarovite.core.inlay.postal import POSTAL_FIELDS, postal_lines


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperAddress:
    """Lines without empty ones. `sort_key` puts letters in the order of countries, the sender's first, and postcodes."""

    lines: tuple[str, ...]
    sort_key: tuple[bool, str, str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Home:
    """Where letters are posted: the organisation's locale, and what it calls its own country, "" where it does not say."""

    locale: Locale
    country: str = ""


def home_of(locale: str, postal_address: str) -> Home:
    """Where an organisation posts its letters: the country is what its own address ends with, if that is one."""
    return Home(locale=Locale.parse(locale), country=re.split(r"[\n,]", postal_address)[-1].strip())


def address_on_paper(record: Record, home: Home) -> PaperAddress:
    """The address of a person who gets a letter from `home`.

    The country stands last, in capitals and in the words of where the letter is posted; at home it does not stand there
    at all (UPU, Addressing the world: the last line is the country's name).
    """
    parts = {key: value for key in POSTAL_FIELDS if isinstance(value := record.get(key), str)}
    code, country = _country(parts.get("country", ""), home)
    names = [value.strip() for key in ("first_name", "last_name") if isinstance(value := record.get(key), str)]
    lines = postal_lines({**parts, "country": country}, code or home.locale.territory)
    name = " ".join(" ".join(filter(None, names)).split())
    # SK2 stands before SK18.
    postcode = re.sub(r"\d+", lambda found: found[0].zfill(9), " ".join(parts.get("postcode", "").split()).upper())
    return PaperAddress(
        lines=tuple(filter(None, (name, *lines))),
        sort_key=(bool(country), country, postcode, name.casefold()),
    )


def _country(told: str, home: Home) -> tuple[str | None, str]:
    """(ISO 3166-1 code, name in capitals): the code is None where nobody knows it, the name "" at home."""
    told = " ".join(told.split())
    code = _codes(str(home.locale)).get(told.casefold())
    if not told or told.casefold() == home.country.casefold() or (code and code == home.locale.territory):
        return code, ""
    return code, (home.locale.territories.get(code, told) if code else told).upper()


@lru_cache(maxsize=16)
def _codes(home: str) -> Mapping[str, str]:
    """Countries by code, by their name at home and in English, folded."""
    told: dict[str, str] = {}
    for locale in (Locale.parse("en"), Locale.parse(home)):
        told |= {name.casefold(): code for code, name in locale.territories.items() if len(code) == 2}
    told |= {code.casefold(): code for code in list(told.values())}
    return told
