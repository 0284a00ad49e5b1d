"""All routes for people with accounts."""

from uvarovite.api import (
    accounts,
    audiences,
    campaigns,
    contact_views,
    contacts,
    dispatch,
    drafts,
    duplicates,
    fields,
    imports,
    messages,
    organisation,
    people,
    selection,
    sources,
    suppressions,
    topics,
)

_ROOMS = (
    organisation,
    accounts,
    fields,
    people,
    duplicates,
    topics,
    suppressions,
    imports,
    sources,
    audiences,
    contacts,
    contact_views,
    selection,
    drafts,
    messages,
    campaigns,
    dispatch,
)
ROUTERS = tuple(room.router for room in _ROOMS)
