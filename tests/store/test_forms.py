"""What JSON columns hold: each has a form, and what any version of it wrote is read for good."""

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from sqlalchemy import Column
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import SQLModel

from uvarovite.core.values import StoredForm, UnknownForm, form_of
from uvarovite.store import tables
from uvarovite.store.forms import FormType

# One for each version that ever was: [{"column": table.column, "version": n, "stored": {...}, "now": {...}}], where
# `now` is null for what is read and never written again. A new version adds entries and changes none.
STORED: list[dict[str, Any]] = json.loads((Path(__file__).parent / "stored_forms.json").read_text(encoding="utf-8"))

# What has no form of its own: something for each field by its key, facts by their name, and what stands in an editor.
OPEN = {
    "contact.own",
    "contact.folded",
    "contact_change.changes",
    "delivery.record",
    "audit_entry.facts",
    "change_set.facts",
    "draft.base",
    "draft.body",
}


def columns() -> Iterator[tuple[str, Column[Any]]]:
    assert tables
    for table in SQLModel.metadata.tables.values():
        for column in table.columns:
            yield f"{table.name}.{column.name}", column


FORMS: dict[str, StoredForm[Any]] = {
    name: column.type.form for name, column in columns() if isinstance(column.type, FormType)
}


def test_each_json_column_has_a_form_or_is_known_to_be_open() -> None:
    assert {name for name, column in columns() if isinstance(column.type, JSONB)} == OPEN
    assert {one["column"] for one in STORED} == set(FORMS)


@pytest.mark.parametrize("one", STORED, ids=[f"{one['column']} {one['version']}" for one in STORED])
def test_what_was_stored_is_read_and_written_as_the_newest(one: dict[str, Any]) -> None:
    form = FORMS[one["column"]]
    value = form.read(one["stored"])
    if one["now"] is None:
        with pytest.raises(ValueError, match="not written again"):
            form.write(value)
        return
    written = json.loads(json.dumps(form.write(value)))
    assert written == one["now"]
    assert form.read(written) == value


@dataclass(frozen=True)
class Walk:
    name: str
    people: int = 0


WALK: StoredForm[Walk] = form_of(
    Walk,
    version=3,
    sparse=True,
    older={1: lambda form: {"title": form["t"]}, 2: lambda form: {"name": form["title"]}},
)


def test_each_version_leads_to_the_next() -> None:
    assert WALK.read({"t": "Owls"}) == WALK.read({"version": 2, "title": "Owls"}) == Walk(name="Owls")
    assert WALK.write(Walk(name="Owls")) == {"version": 3, "name": "Owls"}
    assert WALK.write(Walk(name="Owls", people=4)) == {"version": 3, "name": "Owls", "people": 4}


@pytest.mark.parametrize("version", [0, 4, "3", None])
def test_a_version_that_there_never_was_is_refused(version: object) -> None:
    with pytest.raises(UnknownForm):
        WALK.read({"version": version, "name": "Owls"})


def test_what_is_no_stored_form_is_refused() -> None:
    with pytest.raises(ValueError, match="name"):
        WALK.read({"version": 3, "people": 4})
