"""Whom a campaign's words go to as they are now, counted for whoever writes them: by branch, and by what they have not."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import Clock, Node, SqlFragment, check_criteria, parse_criteria
from uvarovite.core.language import LanguageError
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences.audiences import blank_sql, blanks_among_cleared, reads_sql
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.expressions.conditions import condition_sql
from uvarovite.store.tables import Campaign


def _readers(tx: Transaction, campaign_id: int, now: datetime) -> tuple[SqlFragment, ClearanceTerms] | None:
    """Those whom a campaign goes to; None while nobody knows: without a topic or an audience, or with one that cannot be read."""
    campaign = tx.get(Campaign, campaign_id)
    if campaign is None:
        raise NotFound("campaign")
    parts = load_parts(tx, campaign)
    if not parts.criteria or parts.topic is None:
        return None
    try:
        criteria = audience_sql(tx, parts.criteria, campaign.audience_id, now)
    except BadInput:
        return None
    # Whoever lacks a required field is held for what this is to tell.
    return criteria, terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign)


@needs(Permission.LOOK)
def blanks_among_readers(database: Database, actor: Actor, campaign_id: int, now: datetime) -> dict[str, int]:
    """For each field, by key: how many of a campaign's cleared people have nothing in it. Raises NotFound.

    Nothing at all while nobody knows whom it goes to.
    """
    with database.transaction() as tx:
        readers, keys = _readers(tx, campaign_id, now), load_fields(tx)
        if readers is None:
            return {}
        blanks = [blank_sql(key, standard=field.standard, among=(), others=()) for key, field in keys.items()]
        counted = blanks_among_cleared(tx, *readers, blanks)
        return {key: count for key, (count, _) in zip(keys, counted, strict=True)}


@needs(Permission.LOOK)
def readers_of_branches(
    database: Database,
    actor: Actor,
    campaign_id: int,
    branches: Sequence[Sequence[str]],
    *,
    language: str,
    others: Sequence[str],
    now: datetime,
) -> list[list[int | None]]:
    """For each block with branches: how many of a campaign's cleared people read each, and behind them everybody else.

    `branches` are the criteria of each in their order: the first that holds counts. Of those who read the words in
    `language`, "" for the main ones, which whoever reads none of the `others` gets. What cannot be read yet is None, as
    is all of it while nobody knows whom it goes to. Raises NotFound.
    """
    with database.transaction() as tx:
        readers, fields = _readers(tx, campaign_id, now), load_fields(tx)
        if readers is None:
            return [[None] * (len(some) + 1) for some in branches]
        clock = Clock.at(now, require_organisation(tx).time_zone)
        reads = reads_sql([language], others)
        asked: list[str] = []
        parameters: dict[str, Any] = {}
        places: list[list[int | None]] = []
        for number, some in enumerate(branches):
            told, found = _conditions(some, fields, clock, prefix=f"branch{number}_")
            parameters |= found
            places.append([None if one is None else len(asked) + at for at, one in enumerate(told)])
            asked += [f"{reads} AND {one or 'FALSE'}" for one in told]
        counted = blanks_among_cleared(tx, *readers, asked, parameters)
        return [[None if at is None else counted[at][0] for at in some] for some in places]


def _conditions(
    branches: Sequence[str], fields: FieldMap, clock: Clock, *, prefix: str
) -> tuple[list[str | None], Mapping[str, Any]]:
    """The condition of each branch and of everybody else, None from the first on that cannot be read; what they bind."""
    told: list[str | None] = []
    parameters: dict[str, Any] = {}
    before = "TRUE"
    for place, source in enumerate(branches):
        node = _readable(source, fields)
        if node is None:
            return [*told, *[None] * (len(branches) + 1 - place)], parameters
        own = condition_sql(node, fields, clock, prefix=f"{prefix}{place}_")
        parameters |= own.parameters
        told.append(f"{before} AND coalesce(({own.text}), FALSE)")
        before += f" AND NOT coalesce(({own.text}), FALSE)"
    return [*told, before], parameters


def _readable(source: str, fields: FieldMap) -> Node | None:
    try:
        node = parse_criteria(source)
    except LanguageError:
        return None
    return None if check_criteria(node, fields) else node
