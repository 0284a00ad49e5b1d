"""The contact table, and one person."""

from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, MayLook
from uvarovite.api.schemas.values import Id
from uvarovite.services.contacts import people
from uvarovite.services.contacts.people import Person
from uvarovite.services.selection import table
from uvarovite.services.selection.table import BY_NAME, ContactPage, Wanted

router = APIRouter(prefix="/api", tags=["contacts"])

Search = Annotated[str, Query(max_length=200)]
CriteriaText = Annotated[str, Query(max_length=20_000)]


@router.get("/contacts")
def contact_page(
    actor: MayLook,
    context: Context,
    search: Search = "",
    criteria: CriteriaText = "",
    sort: Annotated[str, Query(max_length=80)] = BY_NAME,
    after: Annotated[str | None, Query(max_length=4000)] = None,
    limit: int = 100,
) -> ContactPage:
    """A page of contacts."""
    wanted = Wanted(search=search, criteria=criteria)
    return table.contact_page(
        context.database, actor, wanted=wanted, now=context.clock(), sort=sort, after=after, limit=limit
    )


@router.get("/contacts/count")
def count_contacts(actor: MayLook, context: Context, search: Search = "", criteria: CriteriaText = "") -> int:
    """How many contacts there are of those wanted."""
    return table.count_contacts(
        context.database, actor, wanted=Wanted(search=search, criteria=criteria), now=context.clock()
    )


@router.get("/contacts/{contact_id}")
def person(contact_id: Id, actor: MayLook, context: Context) -> Person:
    """One contact with everything that is known."""
    return people.person(context.database, actor, contact_id, context.clock())
