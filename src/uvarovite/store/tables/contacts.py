"""Contacts, the organisation's own fields, tags, notes, saved views, and what was changed when and by whom."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, CheckConstraint, Column, Index, Text, text
from sqlmodel import Field, SQLModel

from uvarovite.core.contacts import Field as FieldDefinition
from uvarovite.core.contacts import FieldType
from uvarovite.core.contacts.acts import REDEFINITION_FORM, Redefinition
from uvarovite.core.contacts.fields import PARTS_FORM
from uvarovite.core.contacts.table_columns import TABLE_FORM, TableColumn
from uvarovite.store.tables.columns import (
    by_field_column,
    facts_column,
    form_column,
    id_column,
    instant_column,
    key_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class ContactField(SQLModel, table=True):
    """A custom field. The standard ones are columns of `contact`. A removed one can be brought back."""

    __tablename__ = "contact_field"
    __table_args__ = (one_of("type", FieldType, "contact_field_type"),)
    key: str = Field(sa_column=key_column())
    label: str = Field(sa_column=text_column())
    type: str = Field(sa_column=text_column())
    currency: str | None = Field(default=None, sa_column=text_column(nullable=True))
    choices: list[str] = Field(default_factory=list, sa_column=texts_column())
    parts: tuple[FieldDefinition, ...] = Field(default=(), sa_column=form_column(PARTS_FORM))
    help: str = Field(default="", sa_column=text_column())
    position: int
    removed_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


# People look for names by the alphabet of their language, not by code points (Unicode CLDR's root collation).
ALPHABET = '"und-x-icu"'
# By family name, then by given name; who has only one of them stands under it.
NAME_KEY = "coalesce((folded->>'last_name') || E'\\x01' || coalesce(folded->>'first_name', ''), folded->>'first_name')"


class Contact(SQLModel, table=True):
    """A person. `own` holds the values of the organisation's own fields, `folded` the folded form of every text.

    Rows are never removed: a deleted one is marked and can be brought back for a while; an erased one has lost all that
    it said about the person. `import_id` names the import that made the row, `merged_into` whom a duplicate became.
    """

    __tablename__ = "contact"
    __table_args__ = (
        Index("contact_no_unique", "contact_no", unique=True, postgresql_where=text("deleted_at IS NULL")),
        Index(
            "contact_by_name",
            text(f"({NAME_KEY}) COLLATE {ALPHABET}"),
            "id",
            postgresql_where=text("deleted_at IS NULL"),
        ),
        Index("contact_by_added", "created_at", "id", postgresql_where=text("deleted_at IS NULL")),
        Index("contact_merged_into", "merged_into", postgresql_where=text("merged_into IS NOT NULL")),
    )
    id: int | None = Field(default=None, sa_column=id_column())
    contact_no: str | None = Field(default=None, sa_column=text_column(nullable=True, plain=True))
    address: str | None = Field(default=None, sa_column=text_column(nullable=True))
    address_folded: str | None = Field(default=None, sa_column=text_column(nullable=True, index=True, plain=True))
    first_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    last_name: str | None = Field(default=None, sa_column=text_column(nullable=True))
    language: str | None = Field(default=None, sa_column=text_column(nullable=True))
    own: dict[str, Any] = Field(default_factory=dict, sa_column=by_field_column())
    folded: dict[str, Any] = Field(default_factory=dict, sa_column=by_field_column())
    import_id: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    updated_at: datetime = Field(sa_column=instant_column())
    deleted_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    erased_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    merged_into: int | None = Field(default=None, sa_column=reference("contact.id", nullable=True))


class ContactSearch(SQLModel, table=True):
    """Every text of a contact, folded: a table of its own, so narrow that looking through a million takes no index."""

    __tablename__ = "contact_search"
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    text: str = Field(sa_column=text_column(plain=True))


class ChangeSet(SQLModel, table=True):
    """Changes that were made together: one edit, a bulk action, an import, a merge. Undone as a whole.

    What was done is told by its act (core.contacts.acts) and the facts.
    """

    __tablename__ = "change_set"
    id: int | None = Field(default=None, sa_column=id_column())
    at: datetime = Field(sa_column=instant_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    channel: str = Field(sa_column=text_column())
    act: str = Field(sa_column=text_column())
    facts: dict[str, Any] = Field(default_factory=dict, sa_column=facts_column())
    contacts: int = 0
    redefinition: Redefinition | None = Field(default=None, sa_column=form_column(REDEFINITION_FORM, nullable=True))
    undone_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class ContactChange(SQLModel, table=True):
    """What one change set did to one contact: {field: {before, after}}, in stored form."""

    __tablename__ = "contact_change"
    __table_args__ = (Index("contact_change_by_contact", "contact_id", "change_set_id"),)
    change_set_id: int = Field(sa_column=reference("change_set.id", primary_key=True))
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    changes: dict[str, Any] = Field(sa_column=by_field_column())


class ContactNote(SQLModel, table=True):
    """What somebody wrote down about a person."""

    __tablename__ = "contact_note"
    id: int | None = Field(default=None, sa_column=id_column())
    contact_id: int = Field(sa_column=reference("contact.id", index=True))
    at: datetime = Field(sa_column=instant_column())
    user_id: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    text: str = Field(sa_column=text_column())


class Tag(SQLModel, table=True):
    """A word that people put on contacts; `folded` keeps two spellings of one from standing side by side."""

    __tablename__ = "tag"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column())
    folded: str = Field(sa_column=text_column(unique=True))


class ContactTag(SQLModel, table=True):
    """A tag on a contact."""

    __tablename__ = "contact_tag"
    contact_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    tag_id: int = Field(sa_column=reference("tag.id", primary_key=True, index=True))


class ContactView(SQLModel, table=True):
    """A saved view of the contact table: criteria, columns with their widths in pixels, and the order."""

    __tablename__ = "contact_view"
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    criteria: str = Field(sa_column=text_column())
    columns: tuple[TableColumn, ...] = Field(sa_column=form_column(TABLE_FORM))
    sort: str = Field(sa_column=text_column())
    revision: int = 1
    updated_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    updated_at: datetime = Field(sa_column=instant_column())


class SortedColumn(SQLModel, table=True):
    """A field that the table was sorted by, and when last: such have an index."""

    __tablename__ = "sorted_column"
    key: str = Field(sa_column=Column(Text, primary_key=True))
    used_at: datetime = Field(sa_column=instant_column())


class DifferentPeople(SQLModel, table=True):
    """That somebody said of two contacts that they are not one person; the lower id first."""

    __tablename__ = "different_people"
    __table_args__ = (CheckConstraint("one_id < other_id", name="different_people_in_order"),)
    one_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    other_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    said_by: int | None = Field(sa_column=reference("user_account.id", nullable=True, on_delete="SET NULL"))
    at: datetime = Field(sa_column=instant_column())
