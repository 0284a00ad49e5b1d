"""The museum's contact file and its sign-up lists: CSV texts from a seed, with every kind of trouble in a known number."""

import csv
import io
import random
import unicodedata
from dataclasses import dataclass
from datetime import date, timedelta

from uvarovite.demo.names import (
    FIRST_NAMES,
    LANGUAGE_SHARES,
    LAST_NAMES,
    LOCALITIES,
    ODD_NAMES,
    SCHOOLS,
    SPECIMENS,
    STREETS,
    TOWNS,
    WALKS,
)

SEED = 8_040
PEOPLE = 2_400
# The story's day; dates in the file lie around it.
STORY_DAY = date(2026, 11, 1)

HEADER = (
    "Contact no.", "E-mail address", "First name", "Last name", "Language", "Membership", "Pledge", "Renews on",
    "Street", "Town", "Postcode", "Country", "Visits last year", "Volunteer", "School", "Adopted specimens",
    "Walk bookings", "Last seen",
)  # fmt: skip

_DOMAINS = (
    ("slatepost.example", 0.40),
    ("quartzmail.example", 0.22),
    ("fjordnet.example", 0.16),
    ("copperbox.example", 0.12),
    ("guildhall.example", 0.06),
    ("tinmail.example", 0.04),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trouble:
    """How many of each kind of trouble the file holds, at its usual size."""

    no_address: int = 34
    shared_address: int = 21
    malformed_address: int = 9
    two_addresses: int = 4
    bad_date: int = 3
    too_few_columns: int = 2
    domain_typo: int = 14
    no_first_name: int = 40


TROUBLE = Trouble()


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoFiles:
    """`contacts` is the contact file; `sign_ups` holds a list of contact numbers for each topic key."""

    contacts: str
    sign_ups: dict[str, str]
    left: dict[str, tuple[str, ...]]
    asked: dict[str, tuple[str, ...]]
    suppressed: tuple[str, ...]


def _ascii(name: str) -> str:
    letters = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return "".join(sign for sign in letters.lower() if sign.isalnum())


def _pick(rng: random.Random, shares: dict[str, float]) -> str:
    return rng.choices(list(shares), weights=list(shares.values()))[0]


def _person(rng: random.Random, number: int) -> list[str]:
    language = _pick(rng, LANGUAGE_SHARES)
    if number <= len(ODD_NAMES):
        first, last = ODD_NAMES[number - 1]
    else:
        first, last = rng.choice(FIRST_NAMES[language]), rng.choice(LAST_NAMES[language])
    domain = _pick(rng, dict(_DOMAINS))
    local = ".".join(filter(None, [_ascii(first)[:20], _ascii(last)[:20]])) or f"visitor{number}"
    membership = rng.choices(["", "Friend", "Fellow", "Patron"], weights=[38, 38, 18, 6])[0]
    pledge = ""
    if membership:
        euros = {"Friend": 30, "Fellow": 120, "Patron": 750}[membership] * rng.choice([1, 1, 1, 1.5, 2, 4])
        pledge = f"{euros + rng.choice([0, 0, 0.5]):.2f}"
    renews = (STORY_DAY + timedelta(days=rng.randint(-40, 400))).isoformat() if membership else ""
    return [
        f"SV-{number:06d}",
        f"{local}.{number}@{domain}",
        first,
        last,
        language,
        membership,
        pledge,
        renews,
        _street(number),
        rng.choices(TOWNS, weights=range(len(TOWNS) + 6, 6, -1))[0] if rng.random() < 0.94 else "",
        f"SK{rng.randint(1, 19)} {rng.randint(1, 9)}{rng.choice('ABDEFGH')}{rng.choice('JLNPQRS')}",
        {"de": "Germany", "fr": "France", "pl": "Poland", "nl": "Netherlands", "el": "Greece"}.get(
            language, "Skarnland"
        ),
        str(min(int(rng.expovariate(0.45)), 60)) if rng.random() < 0.9 else "",
        "yes" if rng.random() < 0.07 else "no",
        rng.choice(SCHOOLS) if rng.random() < 0.04 else "",
        *_story_of(rng, membership),
    ]


def _street(number: int) -> str:
    """Where a person lives; one in eleven did not say."""
    return "" if number % 11 == 5 else f"{1 + number * 7 % 89} {STREETS[number % len(STREETS)]}"


def _story_of(rng: random.Random, membership: str) -> list[str]:
    """What a person has adopted and booked, and when they were last seen, in the text form of lists."""
    adopted = [
        f"{rng.choice(SPECIMENS)} | {rng.choice(LOCALITIES)} | {(STORY_DAY - timedelta(days=rng.randint(30, 2_500)))}"
        for _ in range(rng.choices([0, 1, 2, 3], weights=[80, 14, 5, 1] if membership else [97, 3, 0, 0])[0])
    ]
    booked = []
    for _ in range(rng.choices([0, 1, 2], weights=[85, 12, 3])[0]):
        places = rng.choice([1, 1, 2, 2, 4])
        day = STORY_DAY + timedelta(days=rng.randint(5, 90))
        booked.append(f"{rng.choice(WALKS)} | {day} | {places} | {places * 12}.50 EUR")
    seen = ""
    if rng.random() < 0.35:
        day = STORY_DAY - timedelta(days=rng.randint(1, 300))
        seen = f"{day} {rng.randint(9, 16)}:{rng.choice(['00', '15', '30', '45'])}"
    return ["; ".join(adopted), "; ".join(booked), seen]


def _spoil(rng: random.Random, rows: list[list[str]], trouble: Trouble) -> None:
    """Put each trouble into rows of its own, beyond the odd names at the top."""
    places = rng.sample(range(len(ODD_NAMES), len(rows)), sum(_counts(trouble)))

    def take(count: int) -> list[list[str]]:
        return [rows[places.pop()] for _ in range(count)]

    for row in take(trouble.no_address):
        row[1] = ""
    for row in take(trouble.shared_address):
        row[1] = rows[rng.randrange(len(ODD_NAMES))][1]
    for row in take(trouble.malformed_address):
        row[1] = rng.choice(
            [row[1].replace("@", " at "), row[1].replace("@", ""), row[1].replace(".example", ""), row[1] + "."]
        )
    for row in take(trouble.two_addresses):
        row[1] = f"{row[1]}; second.{row[1]}"
    for row in take(trouble.bad_date):
        row[7] = "31.02.2026"
    for row in take(trouble.too_few_columns):
        del row[-3:]
    for row in take(trouble.domain_typo):
        row[1] = row[1].partition("@")[0] + "@quartzmial.example"
    for row in take(trouble.no_first_name):
        row[2] = ""


def _counts(trouble: Trouble) -> list[int]:
    return [getattr(trouble, name) for name in Trouble.__slots__]


def _scaled(people: int) -> Trouble:
    share = people / PEOPLE
    return Trouble(**{name: round(getattr(TROUBLE, name) * share) for name in Trouble.__slots__})


def _csv(rows: list[list[str]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\n").writerows(rows)
    return out.getvalue()


_TOPIC_SHARES = {"field_walks": 0.55, "museum_news": 0.8, "membership": 0.5, "schools": 0.06, "volunteers": 0.09}


def make_files(people: int = PEOPLE, seed: int = SEED) -> DemoFiles:
    """The museum's files for so many people, the same for the same arguments."""
    rng = random.Random(seed)
    rows = [_person(rng, number) for number in range(1, people + 1)]
    _spoil(rng, rows, TROUBLE if people == PEOPLE else _scaled(people))
    kept = [row for row in rows if len(row) == len(HEADER) and ";" not in row[1] and row[7] != "31.02.2026"]
    kept = [row for row in kept if row[1] == "" or _usable(row[1])]
    sign_ups: dict[str, str] = {}
    left: dict[str, tuple[str, ...]] = {}
    asked: dict[str, tuple[str, ...]] = {}
    for topic, share in _TOPIC_SHARES.items():
        chosen = [row[0] for row in kept if rng.random() < share]
        sign_ups[topic] = _csv([["Contact no."], *[[number] for number in chosen]])
        left[topic] = tuple(rng.sample(chosen, max(1, len(chosen) // 60)))
        taken = set(chosen)
        never = [row[0] for row in kept if row[0] not in taken]
        asked[topic] = tuple(rng.sample(never, max(1, len(never) // 40)))
    with_address = [row[0] for row in kept if row[1]]
    return DemoFiles(
        contacts=_csv([list(HEADER), *rows]),
        sign_ups=sign_ups,
        left=left,
        asked=asked,
        suppressed=tuple(rng.sample(with_address, max(1, round(19 * people / PEOPLE)))),
    )


def _usable(address: str) -> bool:
    return address.count("@") == 1 and address.endswith(".example") and " " not in address
