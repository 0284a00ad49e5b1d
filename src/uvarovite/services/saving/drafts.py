"""Work that is open: what somebody changed on an audience or a message and has not saved.

A draft is kept at each pause of the typing, so that it survives a reload, another machine and the end of a session. It
changes nothing for anybody: what is released is what is saved, and a release says which drafts are open.
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Actor, Permission
from uvarovite.services.accounts.permitted import needs, user_of
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.store import drafts as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Audience, Draft, Message
from uvarovite.store.tables import DraftKind as DraftKind

_OF: dict[DraftKind, type[Audience] | type[Message]] = {DraftKind.AUDIENCE: Audience, DraftKind.MESSAGE: Message}
# Four times the longest message.
LARGEST_DRAFT_BYTES = 2 * 1024 * 1024


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftView:
    """One's own draft: `body` was made from `base`, which was saved as `base_revision`. `revision` is the draft's own."""

    base: dict[str, Any]
    base_revision: int
    body: dict[str, Any]
    revision: int
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenDraft:
    """That somebody has changed something and not saved it; `mine` is the reader's own."""

    kind: DraftKind
    object_id: int
    by: str
    mine: bool
    at: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class DraftsView:
    """One's own draft, and who else has one."""

    mine: DraftView | None
    others: list[OpenDraft]


def _view(draft: Draft) -> DraftView:
    return DraftView(
        base=draft.base, base_revision=draft.base_revision, body=draft.body, revision=draft.revision, at=draft.at
    )


def open_drafts(tx: Transaction, things: Sequence[tuple[DraftKind, int]], user_id: int | None) -> list[OpenDraft]:
    """Who has changed one of these things and not saved it."""
    return [
        OpenDraft(
            kind=DraftKind(row.kind), object_id=row.object_id, by=row.name, mine=row.user_id == user_id, at=row.at
        )
        for row in store.open_drafts(tx, things)
    ]


@needs(Permission.WRITE)
def get_drafts(database: Database, actor: Actor, kind: DraftKind, object_id: int) -> DraftsView:
    """The drafts of one thing; `object_id` 0 is a new one."""
    with database.transaction() as tx:
        mine = store.get_draft(tx, kind, object_id, user_of(actor))
        others = open_drafts(tx, [(kind, object_id)], actor.user_id) if object_id else []
        return DraftsView(mine=_view(mine) if mine else None, others=[one for one in others if not one.mine])


@needs(Permission.WRITE)
def keep_draft(
    database: Database,
    actor: Actor,
    kind: DraftKind,
    object_id: int,
    *,
    base: dict[str, Any],
    base_revision: int,
    body: dict[str, Any],
    seen: int,
    now: datetime,
) -> DraftView:
    """Keep what was changed. `seen` is the draft's own revision that was on screen, 0 for none.

    Raises NotFound, BadInput, and Conflict where another tab has kept something else meanwhile.
    """
    try:
        size = len(json.dumps([base, body], allow_nan=False))
    except (ValueError, RecursionError):
        raise BadInput("draft", "This cannot be kept.") from None
    if size > LARGEST_DRAFT_BYTES:
        raise BadInput("draft_too_long", "This is too long to be kept. Shorten it.")
    with database.transaction() as tx:
        if object_id and tx.get(_OF[kind], object_id) is None:
            raise NotFound(kind)
        if seen == 0:
            store.begin_draft(tx, kind, object_id, user_of(actor), now)
        draft = store.get_draft(tx, kind, object_id, user_of(actor))
        if draft is None:
            raise Conflict("gone", "This was saved or thrown away in another tab.")
        if draft.revision != seen and draft.body != body:
            raise Conflict("changed", "You changed this in another tab meanwhile.", _view(draft))
        draft.base, draft.base_revision, draft.body = base, base_revision, body
        draft.revision, draft.at = draft.revision + 1, now
        tx.add(draft)
        tx.flush()
        return _view(draft)


@needs(Permission.WRITE)
def throw_away(database: Database, actor: Actor, kind: DraftKind, object_id: int) -> None:
    """Forget what was changed; nothing happens where nothing was."""
    with database.transaction() as tx:
        store.forget_draft(tx, kind, object_id, user_of(actor))
