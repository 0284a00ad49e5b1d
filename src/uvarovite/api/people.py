"""One person changed by hand, and what is known about them for a data request."""

import asyncio
from datetime import date
from typing import Annotated

from fastapi import APIRouter, Query, Response

from uvarovite.api.context import Context, MayContacts, MayExport, MayLift, MayLook
from uvarovite.api.schemas.people import (
    ConsentEntry,
    NewPerson,
    NoteText,
    PostEntry,
    SuppressEntry,
    TagChange,
    TrackingWish,
    ValueChange,
    Why,
)
from uvarovite.api.schemas.values import Id
from uvarovite.services.consent import records
from uvarovite.services.consent.records import ConsentRecord
from uvarovite.services.contacts import editing, people, post

router = APIRouter(prefix="/api", tags=["people"])


@router.post("/contacts")
def add_person(body: NewPerson, actor: MayContacts, context: Context) -> int:
    """Make a contact by hand; its id."""
    return editing.add_person(context.database, actor, body.values, hasher=context.hash_address, now=context.clock())


@router.put("/contacts/{contact_id}/values/{key}", status_code=204)
def change_value(contact_id: Id, key: str, body: ValueChange, actor: MayContacts, context: Context) -> None:
    """Give one field another value."""
    editing.change_value(
        context.database,
        actor,
        contact_id,
        key=key,
        before=body.before,
        text=body.text,
        hasher=context.hash_address,
        now=context.clock(),
    )


@router.post("/contacts/{contact_id}/tags", status_code=204)
def change_tag(contact_id: Id, body: TagChange, actor: MayContacts, context: Context) -> None:
    """Put a tag on, or take it off."""
    editing.change_tag(context.database, actor, contact_id, body.name, put=body.put, now=context.clock())


@router.post("/contacts/{contact_id}/notes", status_code=204)
def add_note(contact_id: Id, body: NoteText, actor: MayContacts, context: Context) -> None:
    """Write something down."""
    editing.add_note(context.database, actor, contact_id, body.text, now=context.clock())


@router.put("/contacts/{contact_id}/wish", status_code=204)
def set_wish(contact_id: Id, body: TrackingWish, actor: MayContacts, context: Context) -> None:
    """Enter how much a person wishes to be noted of what they open and follow."""
    editing.set_wish(context.database, actor, contact_id, body.wish, now=context.clock())


@router.post("/contacts/{contact_id}/consent", status_code=204)
def record_consent(contact_id: Id, body: ConsentEntry, actor: MayContacts, context: Context) -> None:
    """Enter what a person said about a topic."""
    editing.record_consent(
        context.database,
        actor,
        contact_id,
        topic=body.topic,
        kind=body.kind,
        wording=body.wording,
        until=body.until,
        for_address=body.for_address,
        now=context.recorded_at(),
    )


@router.post("/contacts/{contact_id}/suppression", status_code=204)
def suppress_person(contact_id: Id, body: SuppressEntry, actor: MayContacts, context: Context) -> None:
    """Put a person's address on the suppression list."""
    editing.suppress_person(
        context.database, actor, contact_id, topic=body.topic, reason=body.reason, now=context.clock()
    )


@router.post("/contacts/{contact_id}/post", status_code=204)
def record_post(contact_id: Id, body: PostEntry, actor: MayContacts, context: Context) -> None:
    """Enter what a person said about letters on paper."""
    if body.refused:
        post.refuse_post(context.database, actor, contact_id, wording=body.wording, now=context.clock())
    else:
        post.allow_post(context.database, actor, contact_id, wording=body.wording)


@router.post("/suppressions/{suppression_id}/lift", status_code=204)
def lift_suppression(suppression_id: Id, body: Why, actor: MayLift, context: Context) -> None:
    """Take an entry off the suppression list."""
    editing.lift_suppression(context.database, actor, suppression_id, reason=body.reason, now=context.clock())


@router.get("/address")
def look_at_address(
    actor: MayLook, context: Context, text: Annotated[str, Query(max_length=400)]
) -> people.AddressView:
    """What is odd about an address that is being typed, and who has it already."""
    return people.look_at_address(context.database, actor, text)


AsOf = Annotated[date | None, Query()]


@router.post("/contacts/{contact_id}/verification", status_code=204)
async def verify(contact_id: Id, actor: MayContacts, context: Context) -> None:
    """Ask the name servers about the domain of a person's address now."""
    domain = await asyncio.to_thread(people.domain_of, context.database, actor, contact_id)
    await context.check_domain(domain)


@router.get("/contacts/{contact_id}/record")
def consent_record(contact_id: Id, actor: MayLook, context: Context, as_of: AsOf = None) -> ConsentRecord:
    """One page about one person, as of a day."""
    return records.consent_record(context.database, actor, contact_id, as_of=as_of, now=context.clock())


@router.get("/contacts/{contact_id}/record.json", response_class=Response)
def record_json(contact_id: Id, actor: MayExport, context: Context, as_of: AsOf = None) -> Response:
    """All that is known about a person, as of a day, as JSON."""
    record = records.export_record(context.database, actor, contact_id, as_of=as_of, now=context.clock())
    headers = {"Content-Disposition": f'attachment; filename="person {contact_id}.json"'}
    return Response(records.record_as_json(record), media_type="application/json", headers=headers)


@router.get("/contacts/{contact_id}/record.csv", response_class=Response)
def record_csv(contact_id: Id, actor: MayExport, context: Context, as_of: AsOf = None) -> Response:
    """The same as CSV."""
    record = records.export_record(context.database, actor, contact_id, as_of=as_of, now=context.clock())
    headers = {"Content-Disposition": f'attachment; filename="person {contact_id}.csv"'}
    return Response(records.record_as_csv(record).encode(), media_type="text/csv; charset=utf-8", headers=headers)
