"""Kinds of columns that every table uses alike."""

from enum import StrEnum
from typing import Any

from sqlalchemy import (
    ARRAY,
    BigInteger,
    CheckConstraint,
    Column,
    DateTime,
    ForeignKey,
    Identity,
    Integer,
    Text,
)
from sqlalchemy.dialects.postgresql import JSONB

from uvarovite.core.values import StoredForm
from uvarovite.store.forms import FormType


def id_column() -> Column[Any]:
    """A primary key that the database counts up."""
    return Column(BigInteger, Identity(), primary_key=True)


def key_column() -> Column[Any]:
    """A primary key that is a text of its own."""
    return Column(Text, primary_key=True)


def plain_key_column() -> Column[Any]:
    """A primary key that is a text compared byte by byte."""
    return Column(Text(collation="C"), primary_key=True)


def reference(
    target: str,
    *,
    nullable: bool = False,
    index: bool = False,
    primary_key: bool = False,
    cascade: bool = False,
    on_delete: str | None = None,
) -> Column[Any]:
    """A foreign key to another table's id; with `cascade` the row goes with what it refers to."""
    return Column(
        BigInteger,
        ForeignKey(target, ondelete="CASCADE" if cascade else on_delete),
        nullable=nullable and not primary_key,
        index=index,
        primary_key=primary_key,
    )


def instant_column(*, nullable: bool = False, index: bool = False) -> Column[Any]:
    """An instant with its time zone."""
    return Column(DateTime(timezone=True), nullable=nullable, index=index)


def form_column(form: StoredForm[Any], *, nullable: bool = False) -> Column[Any]:
    """A JSON document of one form: code sees the value alone."""
    return Column(FormType(form), nullable=nullable)


def by_field_column() -> Column[Any]:
    """Something for each field, by its key: what a value may be, the field's own row says."""
    return Column(JSONB(none_as_null=True), nullable=False)


def as_typed_column() -> Column[Any]:
    """A document as it stands in an editor, whole or half-written: kept for that editor, and read by nothing else."""
    return Column(JSONB(none_as_null=True), nullable=False)


def facts_column() -> Column[Any]:
    """The facts of a sentence that a code stands for, by name: texts and numbers."""
    return Column(JSONB(none_as_null=True), nullable=False)


def texts_column() -> Column[Any]:
    """Texts in order."""
    return Column(ARRAY(Text), nullable=False)


def numbers_column() -> Column[Any]:
    """Numbers in order."""
    return Column(ARRAY(Integer), nullable=False)


def text_column(
    *, nullable: bool = False, unique: bool = False, index: bool = False, plain: bool = False
) -> Column[Any]:
    """A text without a bound of its own. A `plain` one is compared byte by byte: quicker where order means nothing."""
    return Column(Text(collation="C") if plain else Text, nullable=nullable, unique=unique, index=index)


def one_of(column: str, kinds: type[StrEnum], name: str) -> CheckConstraint:
    """The database's own guard that a column holds one of an enum's values."""
    values = ", ".join(f"'{kind}'" for kind in kinds)
    return CheckConstraint(f"{column} IN ({values})", name=name)
