"""Duplicates: found, compared, merged."""

from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, MayContacts, MayLook
from uvarovite.api.schemas.people import DifferentAsk, MergeAll, MergeAsk
from uvarovite.services.contacts import duplicates
from uvarovite.services.contacts.duplicates import BY_ADDRESS, MOST_GROUPS, DuplicateGroup

router = APIRouter(prefix="/api", tags=["duplicates"])


@router.get("/duplicates")
def duplicate_groups(
    actor: MayLook, context: Context, by: Annotated[str, Query(max_length=63)] = BY_ADDRESS
) -> list[DuplicateGroup]:
    """Contacts that may be one person."""
    return duplicates.duplicate_groups(context.database, actor, by=by, limit=MOST_GROUPS, now=context.clock())


@router.get("/duplicates/compare")
def compare(actor: MayLook, context: Context, ids: Annotated[list[int], Query(max_length=20)]) -> DuplicateGroup:
    """Contacts side by side."""
    return duplicates.compare(context.database, actor, ids, context.clock())


@router.post("/duplicates/merge", status_code=204)
def merge(body: MergeAsk, actor: MayContacts, context: Context) -> None:
    """Make several contacts one."""
    duplicates.merge(
        context.database,
        actor,
        kept_id=body.kept_id,
        gone_ids=body.gone_ids,
        choices=body.choices,
        now=context.clock(),
    )


@router.post("/duplicates/different", status_code=204)
def say_different(body: DifferentAsk, actor: MayContacts, context: Context) -> None:
    """Remember that contacts are different people, or forget that it was said."""
    if body.different:
        duplicates.say_different(context.database, actor, body.ids, now=context.clock())
    else:
        duplicates.take_back_different(context.database, actor, body.ids)


@router.post("/duplicates/merge-all")
def merge_all(body: MergeAll, actor: MayContacts, context: Context) -> int:
    """Merge every group that is found, by a rule; how many."""
    return duplicates.merge_all(
        context.database, actor, by=body.by, keep=body.keep, seen=body.seen, now=context.clock()
    )
