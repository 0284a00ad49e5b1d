"""Bounds in words: each kind of fault is said in the words of the screen, with both numbers and the field's place."""

from typing import Annotated, Any, Literal

import pytest
from pydantic import BaseModel, Field, ValidationError

from uvarovite.core.campaigns import Pace
from uvarovite.core.values.bounds import fault_in_words, field_of


class _Cat(BaseModel):
    kind: Literal["cat"]


class _Dog(BaseModel):
    kind: Literal["dog"]


class _Sheet(BaseModel):
    first_name: str = Field(default="", min_length=1, max_length=5, pattern="^[a-z]*$", validate_default=False)
    share: float = Field(default=1, gt=0, lt=100.5)
    tags: list[str] = Field(default=[], max_length=1)
    pet: Annotated[_Cat | _Dog, Field(discriminator="kind")] | None = None
    size: Literal["small", "large"] = "small"


@pytest.mark.parametrize(
    ("given", "words", "field"),
    [
        ({"first_name": "abcdefg"}, "First name may have at most 5 characters; 7 now.", "first_name"),
        ({"first_name": ""}, "First name needs at least 1 character; 0 now.", "first_name"),
        ({"first_name": "A1"}, "First name has signs in it that cannot stand there.", "first_name"),
        ({"first_name": 7}, "First name has to be a text.", "first_name"),
        ({"share": 0}, "Share has to be more than 0; it is 0 now.", "share"),
        ({"share": 2000.5}, "Share has to be less than 100.5; it is 2,000.5 now.", "share"),
        ({"share": "much"}, "Share has to be a number.", "share"),
        ({"tags": ["a", "b"]}, "Tags may have at most 1 entry; 2 now.", "tags"),
        ({"pet": {"kind": "cow"}}, "Kind is not one of 'cat', 'dog'.", "pet"),
        ({"size": "huge"}, "Size is not one of 'small' or 'large'.", "size"),
    ],
)
def test_a_fault_is_said_in_words_with_what_it_is_about(given: dict[str, Any], words: str, field: str) -> None:
    with pytest.raises(ValidationError) as fault:
        _Sheet.model_validate(given)
    assert (fault_in_words(fault.value.errors()[0]), field_of(fault.value.errors()[0])) == (words, field)


def test_the_first_fault_of_a_pace_is_said() -> None:
    with pytest.raises(ValidationError) as fault:
        Pace.model_validate({"batch_size": 0, "gap_seconds": -1})
    assert fault_in_words(fault.value.errors()[0]) == "Batch size has to be at least 1; it is 0 now."
