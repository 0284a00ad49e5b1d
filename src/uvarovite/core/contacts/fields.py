"""The fields of a contact: the standard ones that every contact has, and the organisation's own, in one namespace."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class FieldType(StrEnum):
    """What a field holds. Any of them can be blank."""

    TEXT = "text"
    NUMBER = "number"
    MONEY = "money"
    DATE = "date"
    YES_NO = "yes_no"
    CHOICE = "choice"


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A field's definition. `currency` is set for money, `choices` for a choice; `standard` fields have a column."""

    key: str
    label: str
    type: FieldType
    currency: str | None = None
    choices: tuple[str, ...] = ()
    standard: bool = False


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
"""
RESERVED = frozenset(_WORDS.split())


def field_key_problem(key: str) -> str | None:
    """Why a key cannot name a field, or None when it can."""
    if not _KEY.fullmatch(key):
        return "A field's key is lower-case letters, digits and _, and begins with a letter."
    if key in RESERVED:
        return f"“{key}” is a word of the criteria; choose another key."
    return None
