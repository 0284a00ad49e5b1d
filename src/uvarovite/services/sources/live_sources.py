"""Live sources: how other databases are reached, what is read there, and when."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts.live_sources import (
    SCHEDULE_FORM,
    USUAL_PORTS,
    PullFound,
    Schedule,
    SourceAccess,
    SourceAsk,
    SourceKind,
    ask_problem,
    host_problem,
    next_pull,
)
from uvarovite.core.contacts.validating import LONGEST_TAG, tag_name
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.relays import password_again
from uvarovite.services.organisation.secrets import seal, unseal
from uvarovite.store import sources as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import LiveSource, SourcePull

PULLS_SHOWN = 20
_SQLITE_ENDINGS = (".sqlite", ".sqlite3", ".db")


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceAccessDraft:
    """How a database is reached, as edited. A `password` of None leaves the stored one of `source_id`."""

    kind: str
    database: str
    host: str = ""
    port: int | None = None
    username: str = ""
    password: str | None = None
    tls: bool = False
    source_id: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class ScheduleDraft:
    """When a source is pulled by itself: `every` hour, day or week, `at` as HH:MM, `weekday` from Monday as 0."""

    every: str
    at: str = "05:00"
    weekday: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceDraft:
    """A source as edited. `revision` is the one that was on screen."""

    name: str
    access: SourceAccessDraft
    table: str = ""
    select: str = ""
    schedule: ScheduleDraft | None = None
    before_runs: bool = False
    gone_tag: str = ""
    revision: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PullView:
    """A pull: what it found, or why it failed."""

    at: datetime
    channel: str
    import_id: int | None
    found: PullFound | None
    fault: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceView:
    """A source as it is shown; its password never is. `known` once a pull was looked at and written by somebody."""

    id: int
    name: str
    kind: str
    host: str
    port: int
    database: str
    username: str
    has_password: bool
    tls: bool
    table: str
    select: str
    schedule: ScheduleDraft | None
    before_runs: bool
    gone_tag: str
    known: bool
    topic: str | None
    legal_basis: str
    next_pull_at: datetime | None
    under_way: bool
    revision: int
    pulls: list[PullView]


def _view(tx: Transaction, source: LiveSource, now: datetime) -> SourceView:
    return SourceView(
        id=source.id or 0,
        name=source.name,
        kind=source.kind,
        host=source.host,
        port=source.port,
        database=source.database_name,
        username=source.username,
        has_password=source.sealed_password is not None,
        tls=source.tls,
        table=source.table_name,
        select=source.select_text,
        schedule=_schedule_view(source.schedule) if source.schedule else None,
        before_runs=source.before_runs,
        gone_tag=source.gone_tag,
        known=bool(source.columns),
        topic=source.choices.topic,
        legal_basis=source.legal_basis,
        next_pull_at=source.next_pull_at,
        under_way=source.lease_until is not None and source.lease_until > now,
        revision=source.revision,
        pulls=[_pull_view(pull) for pull in store.pulls_of(tx, source.id or 0, PULLS_SHOWN)],
    )


def _schedule_view(schedule: Schedule) -> ScheduleDraft:
    return ScheduleDraft(every=schedule.every, at=f"{schedule.at:%H:%M}", weekday=schedule.weekday)


def _pull_view(pull: SourcePull) -> PullView:
    return PullView(
        at=pull.at,
        channel=pull.channel,
        import_id=pull.import_id,
        found=pull.found,
        fault=pull.fault.message if pull.fault else None,
    )


@needs(Permission.LOOK)
def source_list(database: Database, actor: Actor, now: datetime) -> list[SourceView]:
    """All sources by name."""
    with database.transaction() as tx:
        return [_view(tx, source, now) for source in store.sources(tx)]


@needs(Permission.LOOK)
def get_source(database: Database, actor: Actor, source_id: int, now: datetime) -> SourceView:
    """One source with its pulls. Raises NotFound."""
    with database.transaction() as tx:
        return _view(tx, require_source(tx, source_id), now)


def require_source(tx: Transaction, source_id: int, *, lock: bool = False) -> LiveSource:
    """A source. Raises NotFound."""
    found = tx.get(LiveSource, source_id, with_for_update=lock)
    if found is None:
        raise NotFound("live source")
    return found


@needs(Permission.SET_UP)
def save_source(
    database: Database,
    actor: Actor,
    source_id: int | None,
    draft: SourceDraft,
    *,
    secret: bytes,
    files: Sequence[str],
    now: datetime,
) -> SourceView:
    """Make or change a source. `files` are the SQLite files that may be read. Raises NotFound, Conflict, BadInput."""
    name = " ".join(draft.name.split())
    if not name or len(name) > 80:
        raise BadInput("name", "A live source needs a name of at most 80 characters.")
    ask = SourceAsk(table=draft.table.strip(), select=draft.select.strip())
    if problem := ask_problem(ask):
        raise BadInput("ask", problem.message)
    gone_tag = tag_name(draft.gone_tag)
    if len(gone_tag) > LONGEST_TAG:
        raise BadInput("tag", f"A tag has at most {LONGEST_TAG} characters.")
    kind, port = _checked(draft.access, files)
    schedule = _schedule(draft.schedule)
    with database.transaction() as tx:
        if any(other.name.casefold() == name.casefold() and other.id != source_id for other in store.sources(tx)):
            raise BadInput("name", f"There is a live source “{name}” already.")
        if source_id is None:
            source = LiveSource(
                name=name,
                kind=kind,
                host="",
                port=port,
                database_name="",
                username="",
                tls=False,
                table_name=ask.table,
                select_text=ask.select,
                before_runs=False,
                gone_tag="",
                revision=0,
                created_by=actor.user_id,
                created_at=now,
            )
        else:
            source = require_source(tx, source_id, lock=True)
            if draft.revision != source.revision:
                raise Conflict("changed", "Somebody else changed this source meanwhile; look at it again.")
        if (source.table_name, source.select_text) != (ask.table, ask.select):
            # Other rows may be other columns: somebody looks at them first.
            source.headers, source.columns = [], ()
        before = _server(source)
        source.name, source.kind, source.revision = name, kind, source.revision + 1
        source.host, source.port = draft.access.host.strip(), port
        source.database_name, source.username = draft.access.database.strip(), draft.access.username.strip()
        source.tls, source.table_name, source.select_text = draft.access.tls, ask.table, ask.select
        source.before_runs, source.gone_tag = draft.before_runs, gone_tag
        if draft.access.password is not None:
            sealed = seal(draft.access.password, secret, given_for=_server(source)) if draft.access.password else None
            source.sealed_password = sealed
        elif source.sealed_password is not None and _server(source) != before:
            raise password_again()
        if schedule != source.schedule or source.next_pull_at is None:
            source.next_pull_at = next_moment(tx, schedule, now)
        source.schedule = schedule
        tx.add(source)
        tx.flush()
        audit(tx, actor, Action.SOURCE_SAVED, source.id, name=source.name)
        return _view(tx, source, now)


def _server(source: LiveSource) -> str:
    """What a source's password is given for."""
    return _given_for(source.kind, source.host, source.port, source.username, tls=source.tls)


def _given_for(kind: str, host: str, port: int, username: str, *, tls: bool) -> str:
    return f"source {kind} {host}:{port} {'tls' if tls else 'open'} {username}"


def next_moment(tx: Transaction, schedule: Schedule | None, now: datetime) -> datetime | None:
    """When a source is pulled next, in the organisation's time zone."""
    return next_pull(schedule, now, ZoneInfo(require_organisation(tx).time_zone)) if schedule else None


def _schedule(draft: ScheduleDraft | None) -> Schedule | None:
    if draft is None:
        return None
    try:
        return SCHEDULE_FORM.read({"every": draft.every, "at": draft.at, "weekday": draft.weekday})
    except ValueError as fault:
        raise BadInput(
            "schedule", "A schedule is every hour, every day or every week, at a time like 05:30."
        ) from fault


def _checked(access: SourceAccessDraft, files: Sequence[str]) -> tuple[str, int]:
    """(kind, port). Raises BadInput."""
    if access.kind not in set(SourceKind):
        raise BadInput("kind", f"A live source is one of {', '.join(SourceKind)}.")
    kind = SourceKind(access.kind)
    if kind is SourceKind.SQLITE:
        if access.database not in files:
            raise BadInput("database", f"There is no file “{access.database}” in the directory of sources.")
        return kind.value, 0
    if not access.host.strip() or not access.database.strip():
        raise BadInput("database", "Say on which host the database is, and what it is called.")
    if problem := host_problem(access.host.strip()):
        raise BadInput("host", problem.message)
    port = access.port or USUAL_PORTS[kind]
    if not 0 < port < 65_536:
        raise BadInput("port", "A port is a number from 1 to 65535.")
    return kind.value, port


def sqlite_files(directory: Path | None) -> list[str]:
    """The SQLite files that can be a source: those in the directory that the installation names, and no others."""
    if directory is None or not directory.is_dir():
        return []
    return sorted(one.name for one in directory.iterdir() if one.is_file() and one.suffix in _SQLITE_ENDINGS)


@needs(Permission.SET_UP)
def draft_access(
    database: Database, actor: Actor, draft: SourceAccessDraft, *, secret: bytes, directory: Path | None
) -> SourceAccess:
    """How to reach a database that is being set up. Raises NotFound, BadInput, SecretLost."""
    kind, port = _checked(draft, sqlite_files(directory))
    password = draft.password or ""
    if draft.password is None and draft.source_id is not None:
        with database.transaction() as tx:
            source = require_source(tx, draft.source_id)
            if source.sealed_password is not None:
                given_for = _given_for(kind, draft.host.strip(), port, draft.username.strip(), tls=draft.tls)
                if given_for != _server(source):
                    raise password_again()
                password = unseal(source.sealed_password, secret, given_for=given_for)
    return SourceAccess(
        kind=SourceKind(kind),
        database=_place(SourceKind(kind), draft.database.strip(), directory),
        host=draft.host.strip(),
        port=port,
        username=draft.username.strip(),
        password=password,
        tls=draft.tls,
    )


def source_access(source: LiveSource, *, secret: bytes, directory: Path | None) -> SourceAccess:
    """How to reach a source, with its password opened: not to be logged. Raises SecretLost."""
    kind = SourceKind(source.kind)
    return SourceAccess(
        kind=kind,
        database=_place(kind, source.database_name, directory),
        host=source.host,
        port=source.port,
        username=source.username,
        password=unseal(source.sealed_password, secret, given_for=_server(source)) if source.sealed_password else "",
        tls=source.tls,
    )


def _place(kind: SourceKind, name: str, directory: Path | None) -> str:
    if kind is not SourceKind.SQLITE:
        return name
    return str((directory or Path()) / Path(name).name)


@needs(Permission.SET_UP)
def remove_source(database: Database, actor: Actor, source_id: int) -> None:
    """Remove a source; the people that it brought in stay. Raises NotFound, Conflict."""
    with database.transaction() as tx:
        source = require_source(tx, source_id, lock=True)
        audit(tx, actor, Action.SOURCE_REMOVED, source_id, name=source.name)
        store.forget_source(tx, source_id)
