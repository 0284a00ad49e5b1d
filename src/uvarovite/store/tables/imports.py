"""Files that were brought in, or are looked at before they are."""

from datetime import datetime
from typing import Any

from sqlalchemy import Column, LargeBinary
from sqlmodel import Field, SQLModel

from uvarovite.core.contacts.import_states import ImportState
from uvarovite.store.tables.columns import (
    id_column,
    instant_column,
    json_column,
    key_column,
    one_of,
    reference,
    text_column,
)


class Import(SQLModel, table=True):
    """One file. `form` says how it was read (kind, encoding, delimiter …), `columns` what becomes of each column.

    `options` are the choices of the one who brings it in: key, policies, topic and legal basis, tags.
    """

    __tablename__ = "import_file"
    __table_args__ = (one_of("state", ImportState, "import_file_state"),)
    id: int | None = Field(default=None, sa_column=id_column())
    filename: str = Field(sa_column=text_column())
    state: str = Field(sa_column=text_column())
    form: dict[str, Any] = Field(sa_column=json_column())
    headers: list[str] = Field(sa_column=json_column())
    columns: list[dict[str, Any]] = Field(sa_column=json_column())
    options: dict[str, Any] = Field(default_factory=dict, sa_column=json_column())
    topic_id: int | None = Field(default=None, sa_column=reference("topic.id", nullable=True))
    legal_basis: str | None = Field(default=None, sa_column=text_column(nullable=True))
    report: dict[str, Any] | None = Field(default=None, sa_column=json_column(nullable=True))
    change_set_id: int | None = Field(default=None, sa_column=reference("change_set.id", nullable=True))
    source_id: int | None = Field(default=None, sa_column=reference("live_source.id", nullable=True))
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    written_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class ImportPiece(SQLModel, table=True):
    """A piece of a file's bytes, in order; gone once the file is written or left."""

    __tablename__ = "import_piece"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True, cascade=True))
    number: int = Field(primary_key=True)
    content: bytes = Field(sa_column=Column(LargeBinary, nullable=False))


class ImportProgress(SQLModel, table=True):
    """How far an import under way has come. It stands apart, since the import's own row is locked meanwhile."""

    __tablename__ = "import_progress"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True, cascade=True))
    phase: str = Field(sa_column=text_column())
    done: int
    total: int
    at: datetime = Field(sa_column=instant_column())


class ImportRefusal(SQLModel, table=True):
    """A row that was refused, with its cells, so that it can be mended.

    `row` counts as a spreadsheet does, `record` from 1 for the first one below the names of the columns.
    """

    __tablename__ = "import_refusal"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True, cascade=True))
    row: int = Field(primary_key=True)
    record: int
    code: str = Field(sa_column=text_column())
    message: str = Field(sa_column=text_column())
    cells: list[str] = Field(sa_column=json_column())


class ColumnMemory(SQLModel, table=True):
    """What was made of a file's columns, for the next file with the same ones. `fingerprint` is of the headers."""

    __tablename__ = "column_memory"
    fingerprint: str = Field(sa_column=key_column())
    columns: list[dict[str, Any]] = Field(sa_column=json_column())
    options: dict[str, Any] = Field(sa_column=json_column())
    at: datetime = Field(sa_column=instant_column())
