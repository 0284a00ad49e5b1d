"""How a value stands in a JSON column: written in one form, read in every form that there ever was."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

import pydantic

T = TypeVar("T")
Json = dict[str, Any]


class UnknownForm(ValueError):
    """A stored form of a version that this code does not know: it was written by a later one."""


@dataclass(frozen=True, slots=True)
class StoredForm(Generic[T]):
    """A value's form. `write` gives its newest version; `read` takes any and raises ValueError for what is none."""

    write: Callable[[T], Json]
    read: Callable[[Mapping[str, Any]], T]


def form_of(
    kind: Any,
    *,
    version: int = 1,
    under: str | None = None,
    sparse: bool = False,
    older: Mapping[int, Callable[[Json], Json]] | None = None,
) -> StoredForm[Any]:
    """The form of a type that Pydantic knows.

    A stored form names its version from the second on; one that names none is of the first. `older` leads each earlier
    version to the next one. What is no JSON object by itself, such as a list, stands `under` a key. A `sparse` form
    leaves out what is as it would be without.
    """
    adapter: pydantic.TypeAdapter[Any] = pydantic.TypeAdapter(kind)
    steps = older or {}

    def write(value: Any) -> Json:
        told = adapter.dump_python(value, mode="json", by_alias=True, exclude_defaults=sparse)
        written: Json = told if under is None else {under: told}
        return {"version": version, **written} if version > 1 else written

    def read(stored: Mapping[str, Any]) -> Any:
        found, form = stored.get("version", 1), {key: value for key, value in stored.items() if key != "version"}
        while found != version:
            if found not in steps:
                raise UnknownForm(f"a stored form of version {found!r} cannot be read")
            found, form = found + 1, steps[found](form)
        return adapter.validate_python(form if under is None else form.get(under))

    return StoredForm(write=write, read=read)
