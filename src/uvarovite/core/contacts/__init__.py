"""Contacts: fields and their types, values, and bringing people in from a file."""

from uvarovite.core.contacts.fields import (
    STANDARD_FIELDS,
    Field,
    FieldMap,
    FieldType,
    field_key_problem,
)
from uvarovite.core.contacts.records import Record, folded_values, record_from_json, record_to_json
from uvarovite.core.contacts.values import ReadFault, Value, ValueReader, read_value

__all__ = [
    "STANDARD_FIELDS",
    "Field",
    "FieldMap",
    "FieldType",
    "ReadFault",
    "Record",
    "Value",
    "ValueReader",
    "field_key_problem",
    "folded_values",
    "read_value",
    "record_from_json",
    "record_to_json",
]
