"""Letters on paper for those of an audience who have no e-mail address: what is laid out, and whether it was printed.

What was laid out was printed only when somebody says so. Until then no other letters of the campaign are laid out, so
that nobody gets two; who would get none any more, since they were laid out, is told with the page.
"""

from dataclasses import dataclass, replace
from datetime import datetime

from babel import Locale
from sqlalchemy.exc import IntegrityError

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.audiences import ClearanceTerms, gates_of
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages.paper import SHEETS, Paper
from uvarovite.sandbox.paper import MOST_LETTERS
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import terms_for
from uvarovite.services.campaigns.release_checks import CampaignParts, drafts_of, load_parts
from uvarovite.services.errors import BadInput, Conflict, NotFound
from uvarovite.services.messages.messages import problem_views
from uvarovite.services.messages.saved_file import SavedFile
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.audiences.audiences import count_cleared
from uvarovite.store.campaigns import printing as store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import Campaign, Printing

# Where people write on US Letter.
_LETTER_COUNTRIES = frozenset({"US", "CA", "MX"})


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperChoice:
    """A paper that letters can be laid out for."""

    key: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TakenOut:
    """Whose letter is to be taken out of the stack, why, and on which pages it stands."""

    contact_id: int
    name: str
    why: str
    page: int
    pages: int


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenPrinting:
    """Letters that nobody said were printed yet. `state`: making, made, or broken, when nobody is at work on it any more.

    `stale`: the words were saved anew since. `take_out` are people who would get no letter any more.
    """

    id: int
    state: str
    fault: str
    paper: str
    done: int
    letters: int
    pages: int
    begun_at: datetime
    stale: bool
    take_out: list[TakenOut]


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintedBefore:
    """Letters that were printed; `kept`: their PDF can still be downloaded."""

    id: int
    letters: int
    pages: int
    printed_at: datetime
    by: str
    kept: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintingView:
    """Letters on paper of a campaign. `missing` says what keeps them from being laid out; `most` are laid out at once."""

    missing: str | None
    cleared: int
    most: int
    papers: list[PaperChoice]
    usual_paper: str
    open: OpenPrinting | None
    before: list[PrintedBefore]


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperClearance:
    """Who is asked about: the audience's criteria, and what letters on paper ask of people."""

    criteria: SqlFragment
    terms: ClearanceTerms


def missing_for_paper(tx: Transaction, parts: CampaignParts, user_id: int | None) -> str | None:
    """What keeps letters from being laid out, in words."""
    if parts.version is None:
        return "Choose the message first."
    if parts.criteria is None or parts.topic is None:
        return "Choose the audience and the topic first."
    if drafts_of(tx, parts.campaign, user_id):
        return "Save the audience and the words first: letters are laid out of what is saved."
    if not require_organisation(tx).postal_address.strip():
        return "Set-up has no postal address of the organisation yet: it stands on every letter."
    problems = problem_views(parts.version.content, load_fields(tx))
    return f"Mend the words first: {problems[0].problem.message}" if problems else None


def paper_clearance(tx: Transaction, parts: CampaignParts, now: datetime) -> PaperClearance:
    """The clearance of a campaign's letters on paper, for one that lacks nothing."""
    assert parts.version is not None
    assert parts.criteria is not None
    campaign = parts.campaign
    terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=parts.version.content)
    return PaperClearance(
        criteria=audience_sql(tx, parts.criteria, campaign.audience_id, now), terms=replace(terms, on_paper=True)
    )


def _campaign(tx: Transaction, campaign_id: int) -> Campaign:
    campaign = tx.get(Campaign, campaign_id)
    if campaign is None:
        raise NotFound("campaign")
    return campaign


@needs(Permission.LOOK)
def get_printing(database: Database, actor: Actor, campaign_id: int, *, now: datetime) -> PrintingView:
    """Letters on paper of a campaign as it stands. Raises NotFound."""
    with database.transaction() as tx:
        parts = load_parts(tx, _campaign(tx, campaign_id))
        missing = missing_for_paper(tx, parts, actor.user_id)
        asked = paper_clearance(tx, parts, now) if missing is None else None
        printing = store.open_printing(tx, campaign_id)
        home = Locale.parse(require_organisation(tx).locale)
        return PrintingView(
            missing=missing,
            cleared=count_cleared(tx, asked.criteria, asked.terms) if asked else 0,
            most=MOST_LETTERS,
            papers=[PaperChoice(key=paper, label=sheet.label) for paper, sheet in SHEETS.items()],
            usual_paper=Paper.US if home.territory in _LETTER_COUNTRIES else Paper.DIN,
            open=_open_view(tx, printing, parts, asked, now) if printing else None,
            before=[
                PrintedBefore(
                    id=row.id,
                    letters=row.letters,
                    pages=row.pages,
                    printed_at=row.printed_at,
                    by=row.by,
                    kept=row.kept,
                )
                for row in store.printed_before(tx, campaign_id)
            ],
        )


def _open_view(
    tx: Transaction, printing: Printing, parts: CampaignParts, asked: PaperClearance | None, now: datetime
) -> OpenPrinting:
    state = "made" if printing.made_at else "making"
    if printing.fault or (state == "making" and printing.heard_at < now - store.SILENT):
        state = "broken"
    return OpenPrinting(
        id=printing.id or 0,
        state=state,
        fault=printing.fault,
        paper=printing.paper,
        done=printing.done,
        letters=printing.letters,
        pages=printing.pages,
        begun_at=printing.begun_at,
        stale=parts.version is None or parts.version.id != printing.message_version_id,
        take_out=_take_out(tx, printing, asked),
    )


def _asked(tx: Transaction, campaign: Campaign, actor: Actor, now: datetime) -> PaperClearance | None:
    parts = load_parts(tx, campaign)
    return paper_clearance(tx, parts, now) if missing_for_paper(tx, parts, actor.user_id) is None else None


def _take_out(tx: Transaction, printing: Printing, asked: PaperClearance | None) -> list[TakenOut]:
    if asked is None or printing.made_at is None:
        return []
    gates = {gate.key: gate for gate in gates_of(asked.terms)}
    out = []
    for row in store.held_since(tx, printing.id or 0, asked.criteria, asked.terms):
        gate, _, reason = (row.held or "").partition(":")
        why = gates[gate].words(reason, asked.terms) if gate else "is not in the audience any more"
        out.append(TakenOut(contact_id=row.contact_id, name=row.name, why=why, page=row.page, pages=row.pages))
    return out


@needs(Permission.RELEASE)
def begin_printing(
    database: Database, actor: Actor, campaign_id: int, *, paper: Paper, seen_cleared: int, now: datetime
) -> int:
    """Put down whose letters are to be laid out; the printing's id, for `lay_out_letters`.

    Raises NotFound; BadInput where something is missing; Conflict where other people are cleared than were seen, or
    letters of the campaign wait for being printed (a double click).
    """
    try:
        with database.transaction() as tx:
            parts = load_parts(tx, _campaign(tx, campaign_id))
            missing = missing_for_paper(tx, parts, actor.user_id)
            if missing is not None:
                raise BadInput("missing", missing)
            if store.open_printing(tx, campaign_id):
                raise _open_already()
            asked = paper_clearance(tx, parts, now)
            cleared = count_cleared(tx, asked.criteria, asked.terms)
            if cleared == 0:
                raise BadInput("nobody", "Nobody is cleared for a letter on paper.")
            if cleared != seen_cleared:
                raise Conflict(
                    "changed", f"By now {cleared} are cleared for a letter; you saw {seen_cleared}. Look again."
                )
            ids = store.cleared_for_paper(tx, asked.criteria, asked.terms, MOST_LETTERS)
            assert parts.version is not None
            printing = Printing(
                campaign_id=campaign_id,
                message_version_id=parts.version.id or 0,
                paper=paper,
                letters=len(ids),
                begun_by=actor.user_id,
                begun_at=now,
                heard_at=now,
            )
            tx.add(printing)
            tx.flush()
            store.put_letters(tx, printing.id or 0, ids)
            audit(tx, actor, Action.LETTERS_MADE, campaign_id, letters=len(ids), name=parts.campaign.name)
            return printing.id or 0
    except IntegrityError as fault:
        # Two began at once: the database lets one be open.
        raise _open_already() from fault


def _open_already() -> Conflict:
    return Conflict("open", "Letters of this campaign are laid out already: say first whether they were printed.")


@needs(Permission.RELEASE)
def take_letters(database: Database, actor: Actor, campaign_id: int, printing_id: int) -> SavedFile:
    """The PDF of a printing. Raises NotFound, also for one that is not kept any more."""
    with database.transaction() as tx:
        campaign, printing = _campaign(tx, campaign_id), tx.get(Printing, printing_id)
        pdf = store.file_of(tx, printing_id) if printing and printing.campaign_id == campaign_id else None
        if printing is None or pdf is None:
            raise NotFound("PDF of letters")
        audit(tx, actor, Action.LETTERS_TAKEN, campaign_id, letters=printing.letters, name=campaign.name)
        return SavedFile(name=f"{campaign.name}, letters.pdf", media_type="application/pdf", content=pdf)


@needs(Permission.RELEASE)
def settle_printing(
    database: Database, actor: Actor, campaign_id: int, printing_id: int, *, printed: bool, now: datetime
) -> None:
    """Say that letters were printed, which stands in each person's history, or throw them away. Once is enough.

    Who is to be taken out of the stack got none. Raises NotFound; Conflict where they are not laid out yet.
    """
    with database.transaction() as tx:
        campaign = _campaign(tx, campaign_id)
        printing = store.open_printing(tx, campaign_id, lock=True)
        if printing is None or printing.id != printing_id:
            # Somebody said so already, or it is a second click.
            return
        if printed and printing.made_at is None:
            raise Conflict("making", "These letters are not laid out yet.")
        if printed:
            taken_out = [one.contact_id for one in _take_out(tx, printing, _asked(tx, campaign, actor, now))]
            printing.letters -= store.drop_letters(tx, printing_id, taken_out)
            printing.printed_at, printing.printed_by = now, actor.user_id
        else:
            printing.dropped_at = now
            store.drop_file(tx, printing_id)
            store.drop_letters(tx, printing_id)
        tx.add(printing)
        action = Action.LETTERS_PRINTED if printed else Action.LETTERS_DROPPED
        audit(tx, actor, action, campaign_id, letters=printing.letters, name=campaign.name)


def let_go_of_letters(database: Database, now: datetime) -> int:
    """Let PDFs go that were kept long enough; how many."""
    with database.transaction() as tx:
        return store.let_go_of_files(tx, now)
