"""The contact table, and one person."""

from typing import Annotated

from fastapi import APIRouter, Query

from uvarovite.api.context import Context, User
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
    user: User,
    context: Context,
    search: Search = "",
    criteria: CriteriaText = "",
    sort: Annotated[str, Query(max_length=80)] = BY_NAME,
    after: Annotated[str | None, Query(max_length=4000)] = None,
    limit: int = 100,
) -> ContactPage:
    """A page of contacts."""
    wanted = Wanted(search=search, criteria=criteria)
    return table.contact_page(context.database, wanted=wanted, now=context.clock(), sort=sort, after=after, limit=limit)


@router.get("/contacts/count")
def count_contacts(user: User, context: Context, search: Search = "", criteria: CriteriaText = "") -> int:
    """How many contacts there are of those wanted."""
    return table.count_contacts(context.database, wanted=Wanted(search=search, criteria=criteria), now=context.clock())


@router.get("/contacts/{contact_id}")
def person(contact_id: Id, user: User, context: Context) -> Person:
    """One contact with everything that is known."""
    return people.person(context.database, contact_id, context.clock())
