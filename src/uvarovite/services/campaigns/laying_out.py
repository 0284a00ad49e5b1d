"""Laying out letters on paper: in the background, in a process of its own, with a word now and then how far it is."""

import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.contacts import Field, Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages import Letterhead
from uvarovite.core.messages.paper import Paper, PaperFacts, PaperMaker, address_on_paper
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.responses import Keyring
from uvarovite.sandbox.paper import PaperFault, lay_out
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.campaigns.printing import missing_for_paper, paper_clearance
from uvarovite.services.campaigns.release_checks import CampaignParts, load_parts
from uvarovite.services.errors import BadInput, NotFound, ServiceRefusal
from uvarovite.services.messages.composing import theme_now
from uvarovite.services.messages.messages import letterhead_or_first
from uvarovite.services.messages.pdfs import own_pictures
from uvarovite.services.messages.saved_file import SavedFile
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.campaigns import printing as store
from uvarovite.store.campaigns.proofs import contacts_by_id
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.contacts.records import record_of
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Campaign, MessageVersion, Printing

# Often enough for a bar to move, seldom enough to cost nothing.
_TELL_SECONDS = 0.4
TOO_MUCH = "These letters took too much time or memory to be laid out. Make them shorter, or choose fewer people."


@dataclass(frozen=True, slots=True, kw_only=True)
class _Paper:
    """What letters of a campaign are laid out with."""

    maker: PaperMaker
    fields: dict[str, Field]
    letterhead: Letterhead
    sender: SenderWords
    clock: Clock
    facts: PaperFacts

    def context(self, record: Record) -> InlayContext:
        return self.sender.context(record, self.clock, self.maker.language_for(record))

    def page(self, record: Record) -> str:
        return self.maker.page(record, self.context(record), self.facts)


class _NotWanted(Exception):
    """It was thrown away. Whose doing: somebody here's."""


@needs(Permission.RELEASE)
def lay_out_letters(
    database: Database, actor: Actor, printing_id: int, *, keyring: Keyring, clock: Callable[[], datetime]
) -> None:
    """Lay out the letters of a printing that was begun. Whoever waits asks `get_printing` how far it is."""
    now = clock()
    try:
        with database.transaction() as tx:
            printing = tx.get(Printing, printing_id)
            version = tx.get(MessageVersion, printing.message_version_id) if printing else None
            if printing is None or version is None or printing.made_at or printing.dropped_at:
                return
            campaign = tx.get(Campaign, printing.campaign_id)
            assert campaign is not None
            parts = load_parts(tx, campaign)
            paper = _paper(tx, parts, version, Paper(printing.paper), keyring, now)
            people = _sorted_people(tx, store.letters_of(tx, printing_id), paper)
            letters = [paper.page(record) for _, record in people]
            pictures = own_pictures(tx, letters)
        made = lay_out(
            letters, paper.maker.style(paper.facts.paper), pictures, hears=_teller(database, printing_id, clock)
        )
        with database.transaction() as tx:
            _keep(tx, printing_id, [one for one, _ in people], made.pages, made.pdf, clock())
    except _NotWanted:
        return
    except Exception as fault:
        with suppress(ServiceRefusal), database.transaction() as tx:
            printing = tx.get(Printing, printing_id)
            if printing is not None and printing.made_at is None:
                printing.fault = _told(fault)
                tx.add(printing)
        if not isinstance(fault, PaperFault):
            raise


def _told(fault: Exception) -> str:
    if isinstance(fault, PaperFault):
        return TOO_MUCH
    return fault.message if isinstance(fault, ServiceRefusal) else "The letters could not be laid out."


def _paper(
    tx: Transaction, parts: CampaignParts, version: MessageVersion, paper: Paper, keyring: Keyring, now: datetime
) -> _Paper:
    organisation, fields = require_organisation(tx), load_fields(tx)
    letterhead = letterhead_or_first(tx, parts.campaign.topic_id, parts.campaign.sender_id, keyring)
    clock = Clock.at(now, letterhead.time_zone)
    return _Paper(
        maker=PaperMaker(version.content, fields, theme_now(organisation)),
        fields=fields,
        letterhead=letterhead,
        sender=SenderWords(letterhead, fields),
        clock=clock,
        facts=PaperFacts(
            organisation=organisation.name,
            postal_address=organisation.postal_address,
            locale=organisation.locale,
            day=clock.now.date(),
            paper=paper,
        ),
    )


def _sorted_people(tx: Transaction, ids: Sequence[int], paper: _Paper) -> list[tuple[int, Record]]:
    people = [(contact.id or 0, record_of(contact, paper.fields)) for contact in contacts_by_id(tx, ids)]
    if not people:
        raise BadInput("nobody", "None of them is there any more.")
    return sorted(people, key=lambda one: address_on_paper(one[1], paper.facts.home).sort_key)


def _teller(database: Database, printing_id: int, clock: Callable[[], datetime]) -> Callable[[int], None]:
    told = time.monotonic()

    def tell(done: int) -> None:
        nonlocal told
        if time.monotonic() - told > _TELL_SECONDS:
            told = time.monotonic()
            with database.transaction() as tx:
                if not store.put_progress(tx, printing_id, done=done, now=clock()):
                    raise _NotWanted

    return tell


def _keep(
    tx: Transaction, printing_id: int, ids: Sequence[int], pages: Sequence[int], pdf: bytes, now: datetime
) -> None:
    printing = tx.get(Printing, printing_id, with_for_update=True)
    if printing is None or printing.dropped_at is not None or printing.made_at is not None:
        raise _NotWanted
    places, page = {}, 1
    for place, (contact_id, count) in enumerate(zip(ids, pages, strict=True), 1):
        places[contact_id] = (place, page, count)
        page += count
    store.put_places(tx, printing_id, places)
    store.put_file(tx, printing_id, pdf)
    printing.made_at, printing.letters, printing.pages, printing.done = now, len(ids), page - 1, len(ids)
    tx.add(printing)


@needs(Permission.LOOK)
def sample_letter(
    database: Database, actor: Actor, campaign_id: int, *, paper: Paper, keyring: Keyring, now: datetime
) -> SavedFile:
    """The first letter on paper of a campaign, as PDF, to be looked at. Raises NotFound, BadInput."""
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts = load_parts(tx, campaign)
        missing = missing_for_paper(tx, parts, actor.user_id)
        if missing is not None or parts.version is None:
            raise BadInput("missing", missing or "")
        asked = paper_clearance(tx, parts, now)
        ids = store.cleared_for_paper(tx, asked.criteria, asked.terms, 1)
        if not ids:
            raise BadInput("nobody", "Nobody is cleared for a letter on paper.")
        made = _paper(tx, parts, parts.version, paper, keyring, now)
        letters = [made.page(record) for _, record in _sorted_people(tx, ids, made)]
        pictures = own_pictures(tx, letters)
    try:
        pdf = lay_out(letters, made.maker.style(paper), pictures).pdf
    except PaperFault as fault:
        raise BadInput("too_much", TOO_MUCH) from fault
    return SavedFile(name="letter.pdf", media_type="application/pdf", content=pdf)
