"""Importing people into the small museum, as the screen does it."""

from typing import Any

from tests.support.museum import HASHER, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.imports import files, previewing, writing
from uvarovite.services.imports.columns import ColumnChoice
from uvarovite.services.imports.previewing import PreviewChange
from uvarovite.services.imports.views import ImportView


def preview(museum: Museum, content: str | bytes, filename: str = "more.csv") -> ImportView:
    """Keep a file and look at it."""
    raw = content.encode() if isinstance(content, str) else content
    import_id = files.keep_file(museum.database, SYSTEM, filename=filename, content=[raw], now=NOW)
    return previewing.preview(museum.database, SYSTEM, import_id, hasher=HASHER, now=NOW)


def preview_again(museum: Museum, view: ImportView, **change: Any) -> ImportView:
    """Look at it with something changed."""
    return previewing.preview(museum.database, SYSTEM, view.id, hasher=HASHER, now=NOW, change=PreviewChange(**change))


def choices(view: ImportView, **policies: str) -> list[ColumnChoice]:
    """The columns as they are, with policies for some fields."""
    return [
        ColumnChoice(
            use=one.use,
            field=one.field,
            date_order=one.date_order,
            century=one.century,
            decimal_comma=one.decimal_comma,
            policy=policies.get(one.field or "", one.policy),
        )
        for one in view.columns
    ]


def write(museum: Museum, view: ImportView, topic: str | None = None, legal_basis: str = "") -> ImportView:
    """Write what was looked at."""
    return writing.write_import(museum.database, SYSTEM, view.id, topic=topic, legal_basis=legal_basis, now=NOW)


def import_people(museum: Museum, content: str | bytes, *, filename: str = "x.csv", **told: Any) -> ImportView:
    """Look and write in one go, as the command line does."""
    raw = content.encode() if isinstance(content, str) else content
    given = {"topic": None, "legal_basis": "", "now": NOW, "hasher": HASHER, **told}
    return writing.import_file(museum.database, SYSTEM, filename=filename, content=raw, **given)
