"""Kinds of columns that every table uses alike."""

from enum import StrEnum
from typing import Any

from sqlalchemy import BigInteger, CheckConstraint, Column, DateTime, ForeignKey, Identity, Text
from sqlalchemy.dialects.postgresql import JSONB


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


def json_column(*, nullable: bool = False) -> Column[Any]:
    """A JSON document."""
    return Column(JSONB(none_as_null=True), nullable=nullable)


def text_column(
    *, nullable: bool = False, unique: bool = False, index: bool = False, plain: bool = False
) -> Column[Any]:
    """A text without a bound of its own. A `plain` one is compared byte by byte: quicker where order means nothing."""
    return Column(Text(collation="C") if plain else Text, nullable=nullable, unique=unique, index=index)


def one_of(column: str, kinds: type[StrEnum], name: str) -> CheckConstraint:
    """The database's own guard that a column holds one of an enum's values."""
    values = ", ".join(f"'{kind}'" for kind in kinds)
    return CheckConstraint(f"{column} IN ({values})", name=name)
