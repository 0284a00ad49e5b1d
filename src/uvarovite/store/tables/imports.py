"""Files that were brought in, or are looked at before they are."""

from datetime import datetime

from sqlalchemy import BigInteger, Column, LargeBinary
from sqlmodel import Field, SQLModel

from uvarovite.core.contacts.faults import FAULTS_FORM, ReadFault
from uvarovite.core.contacts.files import FILE_FORM, FileForm
from uvarovite.core.contacts.import_faults import IMPORT_FAULT_FORM, ImportFault
from uvarovite.core.contacts.import_plan import CHOICES_FORM, COLUMNS_FORM, ColumnPlan, ImportChoices
from uvarovite.core.contacts.import_report import REPORT_FORM, ImportReport
from uvarovite.core.contacts.import_states import ImportState
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    key_column,
    one_of,
    reference,
    text_column,
    texts_column,
)


class Import(SQLModel, table=True):
    """One file of `size` bytes, or the rows of a live source. `fault` says why it failed."""

    __tablename__ = "import_file"
    __table_args__ = (one_of("state", ImportState, "import_file_state"),)
    id: int | None = Field(default=None, sa_column=id_column())
    filename: str = Field(sa_column=text_column())
    state: str = Field(sa_column=text_column())
    form: FileForm = Field(sa_column=form_column(FILE_FORM))
    size: int | None = Field(default=None, sa_column=Column(BigInteger, nullable=True))
    headers: list[str] = Field(sa_column=texts_column())
    columns: tuple[ColumnPlan, ...] = Field(sa_column=form_column(COLUMNS_FORM))
    choices: ImportChoices = Field(default_factory=ImportChoices, sa_column=form_column(CHOICES_FORM))
    topic_id: int | None = Field(default=None, sa_column=reference("topic.id", nullable=True))
    legal_basis: str | None = Field(default=None, sa_column=text_column(nullable=True))
    report: ImportReport | None = Field(default=None, sa_column=form_column(REPORT_FORM, nullable=True))
    fault: ImportFault | None = Field(default=None, sa_column=form_column(IMPORT_FAULT_FORM, nullable=True))
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

    `row` counts as a spreadsheet does, `record` from 1 for the first one below the names of the columns; `code` is that
    of the first fault.
    """

    __tablename__ = "import_refusal"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True, cascade=True))
    row: int = Field(primary_key=True)
    record: int
    code: str = Field(sa_column=text_column())
    faults: tuple[ReadFault, ...] = Field(sa_column=form_column(FAULTS_FORM))
    cells: list[str] = Field(sa_column=texts_column())


class ColumnMemory(SQLModel, table=True):
    """What was made of a file's columns, for the next file with the same ones. `fingerprint` is of the headers."""

    __tablename__ = "column_memory"
    fingerprint: str = Field(sa_column=key_column())
    columns: tuple[ColumnPlan, ...] = Field(sa_column=form_column(COLUMNS_FORM))
    key: str = Field(sa_column=text_column())
    at: datetime = Field(sa_column=instant_column())
