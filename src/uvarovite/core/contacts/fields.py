"""The fields of a contact: the standard ones that every contact has, and the organisation's own, in one namespace."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from enum import StrEnum
from typing import Any

from uvarovite.core.values import StoredForm, form_of


class FieldType(StrEnum):
    """What a field holds. Any of them can be blank. A list holds records whose parts are fields themselves."""

    TEXT = "text"
    NUMBER = "number"
    MONEY = "money"
    DATE = "date"
    DATE_TIME = "date_time"
    YES_NO = "yes_no"
    CHOICE = "choice"
    LIST = "list"


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A field's definition.

    `currency` is set for money, `choices` for a choice, `parts` for a list; `standard` fields have a column. `help`
    says to people what belongs in it. What is `asked_only` is kept elsewhere and can be asked for in criteria alone.
    """

    key: str
    label: str
    type: FieldType
    currency: str | None = None
    choices: tuple[str, ...] = ()
    parts: tuple["Field", ...] = ()
    help: str = ""
    standard: bool = False
    asked_only: bool = False


FieldMap = Mapping[str, Field]

STANDARD_FIELDS: tuple[Field, ...] = (
    Field(key="address", label="E-mail address", type=FieldType.TEXT, standard=True),
    Field(key="first_name", label="First name", type=FieldType.TEXT, standard=True),
    Field(key="last_name", label="Last name", type=FieldType.TEXT, standard=True),
    Field(key="language", label="Language", type=FieldType.TEXT, standard=True),
    Field(key="contact_no", label="Contact no.", type=FieldType.TEXT, standard=True),
)

_KEY = re.compile(r"[a-z][a-z0-9_]{0,62}")
# Words of the criteria and the Inlay cannot name a field.
_WORDS = """
    and or not in is any every count between before after on within next last contains starts ends with blank
    if elif else end each use as today now everyone sender organisation
    verification tagged subscribed imported received opened clicked replied bounced never
"""
RESERVED = frozenset(_WORDS.split())
# A record is read as a whole by every message; thousands of choices or parts are a table of their own.
MOST_CHOICES = 500
MOST_PARTS = 12
LONGEST_LABEL = 80


def field_key_problem(key: str) -> str | None:
    """Why a key cannot name a field, or None when it can."""
    if not _KEY.fullmatch(key):
        return "A field's key is lower-case letters, digits and _, and begins with a letter."
    if key in RESERVED:
        return f"“{key}” is a word of the criteria; choose another key."
    return None


def field_problem(field: Field, currencies: Sequence[str]) -> str | None:
    """Why a definition cannot be used, or None when it can. Parts are judged with the list that they belong to."""
    if fault := field_key_problem(field.key):
        return fault
    if not field.label.strip() or len(field.label) > LONGEST_LABEL:
        return f"A field needs a label of at most {LONGEST_LABEL} characters."
    match field.type:
        case FieldType.MONEY if field.currency not in currencies:
            return f"{field.label} is money: choose its currency, one of {', '.join(currencies)}."
        case FieldType.CHOICE:
            return _choices_problem(field)
        case FieldType.LIST:
            return _parts_problem(field, currencies)
    return None


def _choices_problem(field: Field) -> str | None:
    if not field.choices or len(field.choices) > MOST_CHOICES:
        return f"{field.label} needs 1 to {MOST_CHOICES} choices."
    folded = [choice.strip().casefold() for choice in field.choices]
    if "" in folded:
        return f"A choice of {field.label} is empty; remove it."
    if len(set(folded)) < len(folded):
        return f"Two choices of {field.label} are the same."
    return None


def _parts_problem(field: Field, currencies: Sequence[str]) -> str | None:
    if not field.parts or len(field.parts) > MOST_PARTS:
        return f"{field.label} is a list: give it 1 to {MOST_PARTS} parts, such as name and date."
    if len({part.key for part in field.parts}) < len(field.parts):
        return f"Two parts of {field.label} have the same key."
    for part in field.parts:
        if part.type is FieldType.LIST:
            return f"A part of {field.label} cannot be a list itself."
        if fault := field_problem(part, currencies):
            return fault
    return None


PARTS_FORM: StoredForm[tuple[Field, ...]] = form_of(tuple[Field, ...], under="parts")


def field_to_json(field: Field) -> dict[str, Any]:
    """The stored form of a definition, parts included."""
    return asdict(field)


def field_from_json(stored: Mapping[str, Any]) -> Field:
    """A definition from its stored form; what an earlier form did not have yet takes its default."""
    return Field(
        key=stored["key"],
        label=stored["label"],
        type=FieldType(stored["type"]),
        currency=stored.get("currency"),
        choices=tuple(stored.get("choices") or ()),
        parts=tuple(field_from_json(part) for part in stored.get("parts") or ()),
        help=stored.get("help") or "",
        standard=bool(stored.get("standard")),
    )
