"""Contacts: fields and their types, values, and importing people from a file."""

from uvarovite.core.contacts.days import DateOrder
from uvarovite.core.contacts.faults import ReadFault
from uvarovite.core.contacts.fields import (
    STANDARD_FIELDS,
    Field,
    FieldMap,
    FieldType,
    field_from_json,
    field_key_problem,
    field_problem,
    field_to_json,
)
from uvarovite.core.contacts.records import (
    Folded,
    Record,
    RecordReader,
    folded_value,
    folded_values,
    record_to_json,
    value_from_json,
    value_to_json,
    value_to_text,
)
from uvarovite.core.contacts.values import (
    AS_WRITTEN,
    Item,
    Reading,
    Value,
    ValueReader,
    read_value,
)

__all__ = [
    "AS_WRITTEN",
    "STANDARD_FIELDS",
    "DateOrder",
    "Field",
    "FieldMap",
    "FieldType",
    "Folded",
    "Item",
    "ReadFault",
    "Reading",
    "Record",
    "RecordReader",
    "Value",
    "ValueReader",
    "field_from_json",
    "field_key_problem",
    "field_problem",
    "field_to_json",
    "folded_value",
    "folded_values",
    "read_value",
    "record_to_json",
    "value_from_json",
    "value_to_json",
    "value_to_text",
]
