"""Live sources: set up, looked at, pulled."""

from dataclasses import dataclass
from functools import partial

from fastapi import APIRouter

from uvarovite.api.context import ApiContext, Context, MayContacts, MayLook, MaySetUp
from uvarovite.api.imports import answer_import
from uvarovite.api.schemas.sources import AccessAsk, SourcePreviewAsk, SourceSave
from uvarovite.api.schemas.values import Id
from uvarovite.core.accounts import Actor
from uvarovite.core.contacts.live_sources import SourceAsk
from uvarovite.services.imports.views import ImportView
from uvarovite.services.sources import jobs, live_sources
from uvarovite.services.sources.live_sources import SourceView

router = APIRouter(prefix="/api/sources", tags=["sources"])


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceKinds:
    """What a source can be here: the SQLite files that may be read."""

    files: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SourcePreviewView:
    """What a source has: how many rows, its columns, and the first rows."""

    rows: int
    headers: list[str]
    samples: list[list[str]]


@router.get("")
def source_list(actor: MayLook, context: Context) -> list[SourceView]:
    """All sources by name."""
    return live_sources.source_list(context.database, actor, context.clock())


@router.get("/kinds")
def source_kinds(actor: MaySetUp, context: Context) -> SourceKinds:
    """The SQLite files that may be read."""
    return SourceKinds(files=_files(context))


def _files(context: ApiContext) -> list[str]:
    return live_sources.sqlite_files(context.sources.pulling.directory)


@router.post("/tables")
def source_tables(body: AccessAsk, actor: MaySetUp, context: Context) -> list[str]:
    """The tables and views of a database, when it can be reached."""
    tools = context.sources.pulling
    access = live_sources.draft_access(
        context.database, actor, body.draft(), secret=tools.secret, directory=tools.directory
    )
    return context.sources.tables(access)


@router.post("/preview")
def preview_source(body: SourcePreviewAsk, actor: MaySetUp, context: Context) -> SourcePreviewView:
    """How many rows there are, and the first of them; nothing is brought in."""
    tools = context.sources.pulling
    access = live_sources.draft_access(
        context.database, actor, body.access.draft(), secret=tools.secret, directory=tools.directory
    )
    found = context.sources.preview(access, SourceAsk(table=body.table, select=body.select))
    return SourcePreviewView(rows=found.rows, headers=list(found.headers), samples=[list(row) for row in found.samples])


@router.get("/{source_id}")
def get_source(source_id: Id, actor: MayLook, context: Context) -> SourceView:
    """One source with its pulls."""
    return live_sources.get_source(context.database, actor, source_id, context.clock())


def _save(source_id: int | None, body: SourceSave, actor: Actor, context: ApiContext) -> SourceView:
    return live_sources.save_source(
        context.database,
        actor,
        source_id,
        body.draft(),
        secret=context.secret,
        files=_files(context),
        now=context.clock(),
    )


@router.post("")
def make_source(body: SourceSave, actor: MaySetUp, context: Context) -> SourceView:
    """Make a source."""
    return _save(None, body, actor, context)


@router.put("/{source_id}")
def change_source(source_id: Id, body: SourceSave, actor: MaySetUp, context: Context) -> SourceView:
    """Change a source."""
    return _save(source_id, body, actor, context)


@router.delete("/{source_id}", status_code=204)
def remove_source(source_id: Id, actor: MaySetUp, context: Context) -> None:
    """Remove a source; the people whom it brought in stay."""
    live_sources.remove_source(context.database, actor, source_id)


@router.post("/{source_id}/pull")
def pull(source_id: Id, actor: MayContacts, context: Context) -> ImportView:
    """Pull a source and look at what it brings; nothing of it is written yet."""
    import_id = jobs.begin_pull(context.database, actor, source_id, now=context.clock())
    work = partial(jobs.pull_job, context.database, actor, source_id, import_id, context.sources.pulling)
    return answer_import(context, actor, import_id, context.jobs.submit(work))
