"""Fields that people fill in themselves, on forms and on their preference page."""

from dataclasses import dataclass

from uvarovite.core.contacts import Field, FieldType

_KINDS = {
    FieldType.TEXT: "text",
    FieldType.NUMBER: "number",
    FieldType.DATE: "date",
    FieldType.CHOICE: "choice",
    FieldType.YES_NO: "yes_no",
}
ASKABLE = frozenset(_KINDS)
LONGEST_LINE = 200
# Numbers have several readings; what stands on the page already would be read as another one when it is only touched.
_CORRECTABLE = ASKABLE - {FieldType.NUMBER}


@dataclass(frozen=True, slots=True, kw_only=True)
class FormField:
    """A field as a form asks for it, and what stands there; `choices` where it has some."""

    key: str
    label: str
    kind: str
    choices: tuple[str, ...]
    value: str = ""


def form_field(field: Field, value: str = "") -> FormField:
    """A field whose type is one of ASKABLE."""
    choices = ("yes", "no") if field.type is FieldType.YES_NO else field.choices
    return FormField(key=field.key, label=field.label, kind=_KINDS[field.type], choices=tuple(choices), value=value)


def correctable(field: Field) -> bool:
    """May a field be put on the preference page, if the organisation wishes it? Name and language are there anyway."""
    return field.type in _CORRECTABLE and not field.standard


def fits_a_line(text: str) -> bool:
    """Does a text come back from an input of one line as it went there?"""
    return len(text) <= LONGEST_LINE and text.isprintable()
