"""The columns of the contact table, as a saved view keeps them."""

from dataclasses import dataclass

from uvarovite.core.values import StoredForm, form_of


@dataclass(frozen=True, slots=True, kw_only=True)
class TableColumn:
    """A column: name, address, topics, tags, added, or a field's key; its width in pixels."""

    key: str
    width: int


TABLE_FORM: StoredForm[tuple[TableColumn, ...]] = form_of(tuple[TableColumn, ...], under="columns")
