"""Contacts, the organisation's own fields, and imports."""

from datetime import datetime
from typing import Any

from sqlalchemy import Column, Index, LargeBinary, text
from sqlmodel import Field, SQLModel

from uvarovite.core.contacts import FieldType
from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    json_column,
    key_column,
    one_of,
    reference,
    text_column,
)


class ContactField(SQLModel, table=True):
    """A custom field. The standard ones are columns of `contact`."""

    __tablename__ = "contact_field"
    __table_args__ = (one_of("type", FieldType, "contact_field_type"),)
    key: str = Field(sa_column=key_column())
    label: str = Field(sa_column=text_column())
    type: str = Field(sa_column=text_column())
    currency: str | None = Field(default=None, sa_column=text_column(nullable=True))
    choices: list[str] = Field(default_factory=list, sa_column=json_column())
    position: int


class Contact(SQLModel, table=True):
    """A person. `values` holds the custom fields, `folded` the folded form of every text, `search` all of them."""

    __tablename__ = "contact"
    __table_args__ = (
        Index("contact_no_unique", "contact_no", unique=True, postgresql_where=text("deleted_at IS NULL")),
        Index("contact_by_name", text("(folded->>'last_name')"), text("(folded->>'first_name')"), "id"),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    contact_no: str | None = Field(default=None, sa_column=text_column(nullable=True))
    address: str | None = Field(default=None, sa_column=text_column(nullable=True))
    address_folded: str | None = Field(default=None, sa_column=text_column(nullable=True, index=True))
    first_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    last_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    language: str | None = Field(default=None, sa_column=text_column(nullable=True))
    values: dict[str, Any] = Field(default_factory=dict, sa_column=json_column())
    folded: dict[str, str] = Field(default_factory=dict, sa_column=json_column())
    search: str = Field(default="", sa_column=text_column())
    import_id: int | None = Field(default=None, sa_column=reference("import_file.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    updated_at: datetime = Field(sa_column=instant_column())
    deleted_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class Import(SQLModel, table=True):
    """A file that was brought in, or is looked at before it is. `content` is dropped once it is written."""

    __tablename__ = "import_file"
    id: int | None = Field(default=None, sa_column=id_column())
    filename: str = Field(sa_column=text_column())
    content: bytes | None = Field(default=None, sa_column=Column(LargeBinary, nullable=True))
    encoding: str = Field(sa_column=text_column())
    delimiter: str = Field(sa_column=text_column())
    headers: list[str] = Field(sa_column=json_column())
    columns: list[str | None] = Field(sa_column=json_column())
    topic_id: int | None = Field(default=None, sa_column=reference("topic.id", nullable=True))
    ground: str | None = Field(default=None, sa_column=text_column(nullable=True))
    report: dict[str, Any] | None = Field(default=None, sa_column=json_column(nullable=True))
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    written_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class ImportRefusal(SQLModel, table=True):
    """A row that was refused, with its cells, so that it can be mended."""

    __tablename__ = "import_refusal"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True))
    row: int = Field(primary_key=True)
    code: str = Field(sa_column=text_column())
    message: str = Field(sa_column=text_column())
    cells: list[str] = Field(sa_column=json_column())
