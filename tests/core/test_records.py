"""Records: what is stored, and what is written into a cell, reads back as the same value."""

from hypothesis import given

from tests.support.fields import FIELDS, records
from uvarovite.core.contacts import (
    Field,
    FieldType,
    ReadFault,
    Value,
    field_from_json,
    field_problem,
    field_to_json,
    read_value,
    record_to_json,
    value_to_text,
)
from uvarovite.core.contacts.fields import PARTS_FORM
from uvarovite.core.values import CURRENCIES


def without_other_money(record: dict[str, Value]) -> dict[str, Value]:
    """Money in the field's own currency; a cell in another one is refused on purpose."""
    return {
        key: None if key in ("pledge", "adopted_specimens") and "USD" in repr(value) else value
        for key, value in record.items()
    }


@given(records)
def test_a_value_reads_back_from_the_cell_that_it_is_written_into(record: dict[str, Value]) -> None:
    for key, value in without_other_money(record).items():
        cell = value_to_text(value, FIELDS[key])
        read = read_value(cell, FIELDS[key])
        assert not isinstance(read, ReadFault), (cell, read)
        if FIELDS[key].type is FieldType.TEXT and isinstance(value, str):
            # Runs of blanks are one, composed letters are one.
            assert read_value(read, FIELDS[key]) == read if isinstance(read, str) else read is None
        elif isinstance(value, tuple):
            assert value_to_text(read, FIELDS[key]) == value_to_text(read_value(cell, FIELDS[key]), FIELDS[key])
            assert isinstance(read, tuple)
            assert len(read) <= len(value)
        else:
            assert read == value


LISTS = [
    (
        "Fluorite | Skarn | 2021-05-01; Galena",
        [{"name": "Fluorite", "place": "Skarn", "since": "2021-05-01"}, {"name": "Galena"}],
    ),
    ("Fluorite\nGalena | Lode End", [{"name": "Fluorite"}, {"name": "Galena", "place": "Lode End"}]),
    (" | Skarn;;", [{"place": "Skarn"}]),
    ('[{"name": "A; B | C", "since": "2021-05-01"}]', [{"name": "A; B | C", "since": "2021-05-01"}]),
]
SPECIMENS = Field(
    key="specimens",
    label="Specimens",
    type=FieldType.LIST,
    parts=(
        Field(key="name", label="Name", type=FieldType.TEXT),
        Field(key="place", label="Place", type=FieldType.TEXT),
        Field(key="since", label="Since", type=FieldType.DATE),
    ),
)


def test_a_list_is_read_from_one_cell() -> None:
    for text, expected in LISTS:
        value = read_value(text, SPECIMENS)
        assert not isinstance(value, ReadFault)
        assert record_to_json({"specimens": value}) == {"specimens": expected}
        assert read_value(value_to_text(value, SPECIMENS), SPECIMENS) == value
    for text in ("a | b | c | d", "Fluorite | Skarn | yesterday", "[1, 2]", "[{", '[{"colour": "red"}]', "x;" * 300):
        fault = read_value(text, SPECIMENS)
        assert isinstance(fault, ReadFault)
        assert fault.message.startswith("Specimens")


FAULTY = [
    (Field(key="1st", label="First", type=FieldType.TEXT), "begins with a letter"),
    (Field(key="every", label="Every", type=FieldType.TEXT), "word of the criteria"),
    (Field(key="x", label=" ", type=FieldType.TEXT), "needs a label"),
    (Field(key="x", label="X", type=FieldType.MONEY), "choose its currency"),
    (Field(key="x", label="X", type=FieldType.CHOICE), "1 to 500 choices"),
    (Field(key="x", label="X", type=FieldType.CHOICE, choices=("a", "A")), "the same"),
    (Field(key="x", label="X", type=FieldType.CHOICE, choices=("a", "")), "empty"),
    (Field(key="x", label="X", type=FieldType.LIST), "is a list"),
    (Field(key="x", label="X", type=FieldType.LIST, parts=(SPECIMENS,)), "cannot be a list"),
    (Field(key="x", label="X", type=FieldType.LIST, parts=(SPECIMENS.parts[0], SPECIMENS.parts[0])), "same key"),
]


def test_a_definition_that_cannot_be_used_says_why() -> None:
    for field, words in FAULTY:
        assert words in (field_problem(field, list(CURRENCIES)) or "")
    for field in FIELDS.values():
        assert field_problem(field, list(CURRENCIES)) is None
        assert field_from_json(field_to_json(field)) == field
        assert PARTS_FORM.read(PARTS_FORM.write((field,))) == (field,)
