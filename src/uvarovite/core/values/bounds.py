"""What a value has to be, in words: the faults that Pydantic finds, as somebody would say them who knows the screen."""

from collections.abc import Mapping, Sequence
from typing import Any


def fault_in_words(fault: Mapping[str, Any]) -> str:
    """One fault as a sentence that begins with what it is about. `fault` is one of `ValidationError.errors()`."""
    name = _name(fault["loc"] if fault["type"] != "union_tag_invalid" else [*fault["loc"], _tag(fault)])
    told = _SAID.get(str(fault["type"]))
    if fault["type"] == "value_error":
        said = str(fault["msg"]).removeprefix("Value error, ")
        return f"{said[:1].upper()}{said[1:]}."
    if told is None:
        return f"{name} cannot be taken as it is."
    return f"{name} {told.format(**_numbers(fault))}."


def field_of(fault: Mapping[str, Any]) -> str:
    """Which field a fault is about, by its place, such as `pace.batch_size`."""
    return ".".join(str(part) for part in fault["loc"])


_SAID = {
    "missing": "is missing",
    "string_too_long": "may have at most {max_length} {characters}; {length} now",
    "string_too_short": "needs at least {min_length} {characters}; {length} now",
    "too_long": "may have at most {max_length} {entries}; {length} now",
    "too_short": "needs at least {min_length} {entries}; {length} now",
    "greater_than": "has to be more than {gt}; it is {given} now",
    "greater_than_equal": "has to be at least {ge}; it is {given} now",
    "less_than": "has to be less than {lt}; it is {given} now",
    "less_than_equal": "can be at most {le}; it is {given} now",
    "int_parsing": "has to be a whole number",
    "int_type": "has to be a whole number",
    "int_from_float": "has to be a whole number",
    "int_parsing_size": "is too large a number",
    "float_parsing": "has to be a number",
    "float_type": "has to be a number",
    "finite_number": "has to be a number",
    "decimal_parsing": "has to be a number",
    "decimal_type": "has to be a number",
    "string_type": "has to be a text",
    "bool_parsing": "has to be yes or no",
    "bool_type": "has to be yes or no",
    "list_type": "has to be a list",
    "tuple_type": "has to be a list",
    "dict_type": "has to be made of named parts",
    "model_type": "has to be made of named parts",
    "model_attributes_type": "has to be made of named parts",
    "literal_error": "is not one of {expected}",
    "enum": "is not one of {expected}",
    "union_tag_invalid": "is not one of {expected_tags}",
    "union_tag_not_found": "does not say of which kind it is",
    "extra_forbidden": "is not known here",
    "string_pattern_mismatch": "has signs in it that cannot stand there",
    "datetime_parsing": "has to be a day and a time",
    "datetime_from_date_parsing": "has to be a day and a time",
    "datetime_type": "has to be a day and a time",
    "date_parsing": "has to be a day",
    "date_from_datetime_parsing": "has to be a day",
    "date_type": "has to be a day",
    "json_invalid": "is no valid JSON",
}


def _name(loc: Sequence[Any]) -> str:
    """The last name in a place, as words: `pace.batch_size` is the batch size."""
    named = next((part for part in reversed(loc) if isinstance(part, str)), None)
    words = (named or "this").replace("_", " ")
    return words[:1].upper() + words[1:]


def _tag(fault: Mapping[str, Any]) -> str:
    """What tells the kinds of a value apart, such as `kind`."""
    return str(fault.get("ctx", {}).get("discriminator", "kind")).strip("'")


def _numbers(fault: Mapping[str, Any]) -> dict[str, Any]:
    """What the sentences fill in; numbers are written for people."""
    given = fault.get("input")
    context = dict(fault.get("ctx", {}))
    told = {key: _number(value) for key, value in context.items()}
    length = context.get("actual_length") or (len(given) if isinstance(given, str | list | tuple) else 0)
    one = 1 in (context.get("max_length"), context.get("min_length"))
    units = {"characters": "character" if one else "characters", "entries": "entry" if one else "entries"}
    return {**told, **units, "length": f"{length:,}", "given": _number(given)}


def _number(value: Any) -> str:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return str(value)[:80]
    return f"{int(value):,}" if float(value).is_integer() else f"{value:,}"
