"""Live sources: how another database is reached, what is read there, and what each pull found."""

from datetime import datetime

from sqlalchemy import BigInteger, Column, Index, LargeBinary
from sqlmodel import Field, SQLModel

from uvarovite.core.contacts.import_faults import IMPORT_FAULT_FORM, ImportFault
from uvarovite.core.contacts.import_plan import CHOICES_FORM, COLUMNS_FORM, ColumnPlan, ImportChoices
from uvarovite.core.contacts.live_sources import PULL_FORM, SCHEDULE_FORM, PullFound, Schedule, SourceKind
from uvarovite.store.tables.columns import (
    form_column,
    id_column,
    instant_column,
    one_of,
    plain_key_column,
    reference,
    text_column,
    texts_column,
)


class LiveSource(SQLModel, table=True):
    """A source. For SQLite `database_name` is a file's name in the installation's directory of sources.

    `headers`, `columns`, `choices` and `legal_basis` are those of the pull that a person looked at and wrote last; the ones
    that nobody looks at follow them. `lease_until` is set while a pull is under way.
    """

    __tablename__ = "live_source"
    __table_args__ = (one_of("kind", SourceKind, "live_source_kind"),)
    id: int | None = Field(default=None, sa_column=id_column())
    name: str = Field(sa_column=text_column(unique=True))
    kind: str = Field(sa_column=text_column())
    host: str = Field(sa_column=text_column())
    port: int
    database_name: str = Field(sa_column=text_column())
    username: str = Field(sa_column=text_column())
    sealed_password: str | None = Field(default=None, sa_column=text_column(nullable=True))
    tls: bool
    table_name: str = Field(sa_column=text_column())
    select_text: str = Field(sa_column=text_column())
    schedule: Schedule | None = Field(default=None, sa_column=form_column(SCHEDULE_FORM, nullable=True))
    before_runs: bool
    gone_tag: str = Field(sa_column=text_column())
    headers: list[str] = Field(default_factory=list, sa_column=texts_column())
    columns: tuple[ColumnPlan, ...] = Field(default=(), sa_column=form_column(COLUMNS_FORM))
    choices: ImportChoices = Field(default_factory=ImportChoices, sa_column=form_column(CHOICES_FORM))
    legal_basis: str = Field(default="", sa_column=text_column())
    revision: int
    created_by: int | None = Field(default=None, sa_column=reference("user_account.id", nullable=True))
    created_at: datetime = Field(sa_column=instant_column())
    next_pull_at: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))
    lease_until: datetime | None = Field(default=None, sa_column=instant_column(nullable=True))


class SourcePull(SQLModel, table=True):
    """One pull that came to an end: what it found, or why it failed. `channel` is by_hand, schedule or before_run."""

    __tablename__ = "source_pull"
    __table_args__ = (Index("source_pull_by_source", "source_id", "id"),)
    id: int | None = Field(default=None, sa_column=id_column())
    source_id: int = Field(sa_column=reference("live_source.id", cascade=True))
    at: datetime = Field(sa_column=instant_column())
    channel: str = Field(sa_column=text_column())
    import_id: int | None = Field(default=None, sa_column=reference("import_file.id", nullable=True))
    found: PullFound | None = Field(default=None, sa_column=form_column(PULL_FORM, nullable=True))
    fault: ImportFault | None = Field(default=None, sa_column=form_column(IMPORT_FAULT_FORM, nullable=True))


class SourceRow(SQLModel, table=True):
    """A row of a pull that was written: by what it is known, what it looked like, and whom it stands for."""

    __tablename__ = "source_row"
    import_id: int = Field(sa_column=reference("import_file.id", primary_key=True, cascade=True))
    key: str = Field(sa_column=plain_key_column())
    digest: bytes = Field(sa_column=Column(LargeBinary, nullable=False))
    contact_id: int = Field(sa_column=Column(BigInteger, nullable=False))
