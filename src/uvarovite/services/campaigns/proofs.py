"""Proofs of a campaign: a sheet made of everybody who is cleared, in the background, and ticked off letter by letter."""

import hashlib
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import Field, FieldMap, Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages import Letterhead, LetterMaker, MessageContent, RenderedMessage
from uvarovite.core.messages.proof_sheet import ProofSheet, digest_of, letter_to, make_proof_sheet, with_letters
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.release_checks import CampaignParts, Check, load_parts, release_check
from uvarovite.services.errors import NotFound, ServiceRefusal
from uvarovite.services.messages.composing import maker_now
from uvarovite.services.messages.messages import letterhead_or_first, problem_views
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.campaigns import proofs as store
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Campaign

# Often enough for a bar to move, seldom enough to cost nothing.
_TELL_SECONDS = 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofView:
    """A letter to look at: whose it is, what it is there to show, for how many it stands, and who found it right.

    `people` counts those whose letters show the very same things.
    """

    contact_id: int
    name: str
    shows: list[str]
    people: int
    subject: str
    html: str
    digest: str
    seen_by: str | None
    seen_at: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RemarkView:
    """Something that only all letters together tell."""

    key: str
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofSheetView:
    """The sheet as it was made last, and how far a newer one is.

    `stale`: words, audience or rules were saved anew since, or a letter of it is another one now. `making`: somebody is at work on a newer one, `done` of
    `total`. `missing` says what keeps a sheet from being made.
    """

    missing: str | None
    stale: bool
    making: bool
    done: int
    total: int
    made_at: datetime | None
    people: int
    ways: int
    proofs: list[ProofView]
    remarks: list[RemarkView]


def made_of(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> str:
    """What a sheet is made of, in one text: another one when anything of it is saved anew."""
    campaign, organisation = parts.campaign, require_organisation(tx)
    told = (
        parts.version.id if parts.version else None, parts.criteria, campaign.audience_id, campaign.again,
        sorted(campaign.lifted), (campaign.sender_id, parts.sender.revision if parts.sender else 0),
        (campaign.topic_id, parts.topic.revision if parts.topic else 0), organisation.revision, organisation.look_revision,
        sorted((field.key, field.label, field.type) for field in fields.values()),
    )  # fmt: skip
    return hashlib.sha256(repr(told).encode()).hexdigest()[:32]


@dataclass(frozen=True, slots=True, kw_only=True)
class _Proofing:
    """What letters of a campaign are made with."""

    content: MessageContent
    fields: dict[str, Field]
    maker: LetterMaker
    letterhead: Letterhead
    sender: SenderWords
    clock: Clock

    def context(self, record: Record) -> InlayContext:
        return self.sender.context(record, self.clock, self.maker.language_for(record))

    def letter(self, record: Record) -> RenderedMessage:
        return letter_to(self.maker, record, self.context(record), self.letterhead.footer(None))


def _missing(parts: CampaignParts, fields: FieldMap) -> str | None:
    if parts.version is None:
        return "Choose the message first."
    if parts.criteria is None or parts.topic is None:
        return "Choose the audience and the topic first."
    problems = problem_views(parts.version.content, fields)
    return f"Mend the words first: {problems[0].problem.message}" if problems else None


def _proofing(
    tx: Transaction, parts: CampaignParts, fields: dict[str, Field], keyring: Keyring, now: datetime
) -> _Proofing:
    assert parts.version is not None
    letterhead = letterhead_or_first(tx, parts.campaign.topic_id, parts.campaign.sender_id, keyring)
    content = parts.version.content
    return _Proofing(
        content=content,
        fields=fields,
        maker=maker_now(tx, content, fields),
        letterhead=letterhead,
        sender=SenderWords(letterhead, fields),
        clock=Clock.at(now, letterhead.time_zone),
    )


def _campaign(tx: Transaction, campaign_id: int) -> Campaign:
    campaign = tx.get(Campaign, campaign_id)
    if campaign is None:
        raise NotFound("campaign")
    return campaign


def _letters(tx: Transaction, proofing: _Proofing, ids: Sequence[int]) -> dict[int, RenderedMessage]:
    return {
        contact.id or 0: proofing.letter(contact_store.record_of(contact, proofing.fields))
        for contact in store.contacts_by_id(tx, ids)
    }


@needs(Permission.LOOK)
def get_proofs(
    database: Database, actor: Actor, campaign_id: int, *, keyring: Keyring, now: datetime
) -> ProofSheetView:
    """The sheet of a campaign as it stands. Raises NotFound."""
    with database.transaction() as tx:
        parts, fields = load_parts(tx, _campaign(tx, campaign_id)), load_fields(tx)
        missing, row = _missing(parts, fields), store.sheet_row(tx, campaign_id)
        making = row is not None and row.making != "" and row.heard_at is not None and row.heard_at > now - store.SILENT
        sheet = row.sheet if row and missing is None else None
        proofs: list[ProofView] = []
        moved = False
        if row and sheet is not None:
            ids = [one.contact_id for one in sheet.proofs]
            # What is of a day or an hour is of when the sheet was made.
            letters = _letters(tx, _proofing(tx, parts, fields, keyring, row.made_at or now), ids)
            moved = any(one not in letters for one in ids)
            names, seen = audience_store.names_of(tx, ids), store.seen_by(tx, campaign_id)
            for line in sheet.proofs:
                if letter := letters.get(line.contact_id):
                    digest = digest_of(letter)
                    moved = moved or digest != line.digest
                    by, at = seen.get((line.contact_id, digest), (None, None))
                    proofs.append(
                        ProofView(
                            contact_id=line.contact_id,
                            name=names[line.contact_id],
                            shows=list(line.shows),
                            people=line.people,
                            subject=letter.subject,
                            html=letter.html,
                            digest=digest,
                            seen_by=by,
                            seen_at=at,
                        )
                    )
        return ProofSheetView(
            missing=missing,
            stale=missing is None and (row is None or moved or row.made_of != made_of(tx, parts, fields)),
            making=making,
            done=row.done if row and making else 0,
            total=row.total if row and making else 0,
            made_at=row.made_at if row else None,
            people=sheet.people if sheet else 0,
            ways=sheet.ways if sheet else 0,
            proofs=proofs,
            remarks=[RemarkView(key=one.key, message=one.message) for one in sheet.remarks] if sheet else [],
        )


class _NotWanted(Exception):
    """A newer sheet was begun. Whose doing: nobody's."""


@needs(Permission.WRITE)
def make_proofs(
    database: Database, actor: Actor, campaign_id: int, *, keyring: Keyring, clock: Callable[[], datetime]
) -> None:
    """Make the sheet of a campaign as it is saved now; nothing where the same is being made. Raises NotFound.

    It takes some seconds for 100,000 people; whoever waits asks `get_proofs` how far it is.
    """
    with database.transaction() as tx:
        parts, fields = load_parts(tx, _campaign(tx, campaign_id)), load_fields(tx)
        of = made_of(tx, parts, fields)
        if _missing(parts, fields) is not None or not store.begin_sheet(tx, campaign_id, of, clock()):
            return
    try:
        now = clock()
        sheet = _made(database, campaign_id, of, keyring=keyring, now=now, clock=clock)
        with database.transaction() as tx:
            store.put_sheet(tx, campaign_id, of, sheet, now)
    except _NotWanted:
        return
    except Exception:
        with suppress(ServiceRefusal), database.transaction() as tx:
            store.drop_making(tx, campaign_id, of)
        raise


def _made(
    database: Database, campaign_id: int, of: str, *, keyring: Keyring, now: datetime, clock: Callable[[], datetime]
) -> ProofSheet:
    """The sheet as of `now`; the clock goes on, and tells when it was last heard of."""
    told = time.monotonic()

    def step(done: int, total: int) -> None:
        nonlocal told
        if time.monotonic() - told > _TELL_SECONDS:
            told = time.monotonic()
            with database.transaction() as other:
                if not store.put_progress(other, campaign_id, of, done=done, total=total, now=clock()):
                    raise _NotWanted

    with database.transaction() as tx:
        campaign = _campaign(tx, campaign_id)
        parts, fields = load_parts(tx, campaign), load_fields(tx)
        assert parts.version is not None
        assert parts.criteria is not None
        proofing = _proofing(tx, parts, fields, keyring, now)
        sql = audience_sql(tx, parts.criteria, campaign.audience_id, now)
        terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=proofing.content)
        ids = store.cleared_ids(tx, sql, terms)

        def recipients() -> Iterator[tuple[int, Record, InlayContext]]:
            for place, contact in enumerate(store.contacts_by_id(tx, ids)):
                if place % 500 == 0:
                    step(place, len(ids))
                record = contact_store.record_of(contact, fields)
                yield contact.id or 0, record, proofing.context(record)

        sheet = make_proof_sheet(proofing.maker, fields, recipients())
        chosen = [one.contact_id for one in sheet.proofs]
        return with_letters(sheet, _letters(tx, proofing, chosen))


@needs(Permission.WRITE)
def tick_proof(
    database: Database, actor: Actor, campaign_id: int, contact_id: int, *, digest: str, right: bool, now: datetime
) -> None:
    """Say of the very letter with this digest that it is right, or take that back. Raises NotFound."""
    with database.transaction() as tx:
        campaign = _campaign(tx, campaign_id)
        if contact_store.get_contact(tx, contact_id) is None:
            raise NotFound("contact")
        if right:
            store.mark_seen(tx, campaign_id, contact_id, digest, actor.user_id, now)
            audit(tx, actor, Action.PROOF_SEEN, campaign_id, name=campaign.name)
        else:
            store.take_back(tx, campaign_id, contact_id, digest)


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofCount:
    """How many letters of a sheet were found right; a `stale` sheet is of what was saved before."""

    seen: int
    of: int
    stale: bool
    remarks: tuple[str, ...]


def proof_count(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> ProofCount | None:
    """How it stands with the proofs of a campaign; None before a sheet was made."""
    campaign_id = parts.campaign.id or 0
    row = store.sheet_row(tx, campaign_id)
    if row is None or row.sheet is None:
        return None
    seen = store.seen_by(tx, campaign_id)
    return ProofCount(
        seen=sum((one.contact_id, one.digest) in seen for one in row.sheet.proofs),
        of=len(row.sheet.proofs),
        stale=row.made_of != made_of(tx, parts, fields),
        remarks=tuple(one.message for one in row.sheet.remarks),
    )


def proof_checks(count: ProofCount | None) -> list[Check]:
    """What proofs say before a release. None of it blocks: whoever releases may know the letters by heart."""
    if count is None or count.stale:
        return []
    left = count.of - count.seen
    checks = [release_check("remark", told=one) for one in count.remarks]
    if left:
        checks.append(release_check("proofs", left=left, of=count.of))
    return checks
