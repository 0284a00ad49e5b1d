"""What stands between a campaign and its release."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.audiences import Again, ClearanceTerms
from uvarovite.core.campaigns import Pace
from uvarovite.core.contacts import FieldMap
from uvarovite.core.delivery import RunState
from uvarovite.core.expressions import SqlFragment, print_criteria
from uvarovite.core.messages import MessageContent, advice_on, fields_without_fallback
from uvarovite.core.messages.advice import language_name
from uvarovite.core.messages.document import language_of_part
from uvarovite.core.messages.sender_words import reply_to_problem, sender_problem
from uvarovite.services.audiences.clearance import ClearanceView
from uvarovite.services.messages.blanks import blank_conditions
from uvarovite.services.messages.messages import PartProblemView
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.saving.drafts import OpenDraft, open_drafts
from uvarovite.store import messages as message_store
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.comments import open_comments
from uvarovite.store.database import Transaction
from uvarovite.store.sources import sources
from uvarovite.store.tables import Audience, Campaign, DraftKind, Message, MessageVersion, Relay, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class Accepted:
    """Who accepted a piece of advice, and why it is right as it is."""

    by: str
    at: datetime
    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """What stands between a campaign and its release. `stop` names the part of the run sheet that mends it.

    What does not block is advice; `digest` tells it from others, and from what it said before.
    """

    code: str
    blocking: bool
    message: str
    stop: str
    digest: str = ""
    accepted: Accepted | None = None


def with_acceptances(checks: Sequence[Check], accepted: Mapping[str, Accepted]) -> list[Check]:
    """The checks with their digests, and with what was accepted by digest."""
    return [
        replace(one, digest=digest, accepted=None if one.blocking else accepted.get(digest))
        for one in checks
        for digest in [hashlib.sha256(f"{one.code}\0{one.message}".encode()).hexdigest()[:32]]
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class CampaignParts:
    """A campaign with what it points to, None where nothing is chosen."""

    campaign: Campaign
    topic: Topic | None
    audience: Audience | None
    message: Message | None
    version: MessageVersion | None
    sender: Sender | None
    relay: Relay | None
    pace: Pace
    criteria: str | None


def load_parts(tx: Transaction, campaign: Campaign) -> CampaignParts:
    """Everything that a campaign points to."""
    audience = tx.get(Audience, campaign.audience_id) if campaign.audience_id else None
    return CampaignParts(
        campaign=campaign,
        topic=tx.get(Topic, campaign.topic_id) if campaign.topic_id else None,
        audience=audience,
        message=tx.get(Message, campaign.message_id) if campaign.message_id else None,
        version=message_store.latest_version(tx, campaign.message_id) if campaign.message_id else None,
        sender=tx.get(Sender, campaign.sender_id) if campaign.sender_id else None,
        relay=tx.get(Relay, campaign.relay_id) if campaign.relay_id else None,
        pace=campaign.pace,
        criteria=print_criteria(audience.criteria) if audience else None,
    )


def drafts_of(tx: Transaction, campaign: Campaign, user_id: int | None) -> list[OpenDraft]:
    """Who has changed the audience or the words of a campaign and not saved that."""
    things = [(DraftKind.AUDIENCE, campaign.audience_id), (DraftKind.MESSAGE, campaign.message_id)]
    return open_drafts(tx, [(kind, one) for kind, one in things if one is not None], user_id)


_DRAFTS = {DraftKind.AUDIENCE: ("who", "the conditions"), DraftKind.MESSAGE: ("words", "the words")}


def _draft_check(draft: OpenDraft) -> Check:
    """One's own open draft stands in the way; somebody else's is theirs to finish, and is named."""
    stop, what = _DRAFTS[draft.kind]
    if draft.mine:
        message = f"You changed {what} and did not save them. Save them, or throw them away."
        return Check(code=f"draft_{draft.kind}", blocking=True, stop=stop, message=message)
    message = f"{draft.by} is changing {what} and has not saved them; they go as they are saved."
    return Check(code=f"others_draft_{draft.kind}", blocking=False, stop=stop, message=message)


def _blank_checks(
    tx: Transaction, sql: SqlFragment, terms: ClearanceTerms, fields: FieldMap, content: MessageContent
) -> list[Check]:
    """A field without a fallback that is blank for somebody who is cleared: looked up for all of them, no sample."""
    blanks = blank_conditions(content, fields, fields_without_fallback(content, fields))
    found = audience_store.blanks_among_cleared(tx, sql, terms, list(blanks.values()))
    names = audience_store.names_of(tx, [one for _, some in found for one in some])
    checks = []
    for key, (blank, some) in zip(blanks, found, strict=True):
        if blank:
            who = ", ".join(names[one] for one in some) + (
                f" and {blank - len(some):,} more" if blank > len(some) else ""
            )
            checks.append(
                Check(
                    code="blank_field",
                    blocking=True,
                    stop="words",
                    message=f"{'1 person has' if blank == 1 else f'{blank:,} people have'} no {fields[key].label.lower()} "
                    f"and would see a hole: {who}. "
                    f'Add a fallback: @{{{key} else "…"}}, or name it under Required fields: then they do not get the message.',
                )
            )
    return checks


def _sender_problem(sender: Sender, fields: FieldMap) -> str | None:
    """What became wrong with a sender's inlays since it was saved: a field is gone, or another one now."""
    told = sender_problem(sender.name, fields)
    if told is None and "@{" in (sender.reply_to or ""):
        told = reply_to_problem(sender.reply_to or "", fields)
    return f"The sender “{sender.name}” cannot be used: {told} Mend it in Set-up, Senders." if told else None


def _people_with_it(
    tx: Transaction, campaign: Campaign, taken: ClearanceView | None, sql: SqlFragment | None, terms: ClearanceTerms
) -> int:
    """How many of those who are cleared were sent something by an earlier run of the campaign."""
    if sql is None or taken is None or taken.cleared == 0 or campaign.again == Again.NEW_TO_CAMPAIGN:
        return 0
    fresh = audience_store.count_cleared(tx, sql, replace(terms, again=Again.NEW_TO_CAMPAIGN))
    return taken.cleared - fresh


def _again_words(released: datetime, had: int) -> str:
    who = {0: "nobody who got it then gets anything again", 1: "1 person who got it then gets this as well"}
    told = who.get(had, f"{had:,} people who got it then get this as well")
    return f"This campaign was released before, on {released:%-d %B %Y}; {told}."


def release_checks(
    tx: Transaction,
    parts: CampaignParts,
    fields: FieldMap,
    taken: ClearanceView | None,
    problems: list[PartProblemView],
    sql: SqlFragment | None,
    terms: ClearanceTerms,
    fault: str | None,
    drafts: Sequence[OpenDraft],
) -> list[Check]:
    """All checks of a campaign, the blocking ones first where they come first to mind.

    `fault` is what keeps the audience's criteria from being used, `drafts` what of it somebody changed and did not save.
    """
    missing = [
        ("no_audience", parts.audience, "who", "Choose who gets it: an audience."),
        ("no_topic", parts.topic, "who", "Choose the topic that these people opted in to."),
        ("no_message", parts.version, "words", "Choose the message."),
        ("no_sender", parts.sender, "pace", "Choose who it comes from."),
        ("no_relay", parts.relay, "pace", "Choose the relay that it goes through."),
    ]
    checks = [
        Check(code=code, blocking=True, stop=stop, message=message)
        for code, part, stop, message in missing
        if part is None
    ]
    if parts.sender and (told := _sender_problem(parts.sender, fields)):
        checks.append(Check(code="sender_words", blocking=True, stop="pace", message=told))
    checks += [_draft_check(draft) for draft in drafts]
    if parts.version and (said := open_comments(tx, parts.version.message_id)):
        message = f"{said} comments on the words are open." if said > 1 else "A comment on the words is open."
        checks.append(Check(code="comments", blocking=False, stop="words", message=message))
    if fault is not None:
        message = f"The audience's conditions cannot be used any more: {fault}"
        checks.append(Check(code="criteria", blocking=True, stop="who", message=message))
    if taken is not None and taken.cleared == 0:
        message = "Nobody is cleared: open the gates in Who to see why."
        checks.append(Check(code="nobody", blocking=True, stop="who", message=message))
    words = parts.version.content if parts.version else MessageContent()
    for found in problems[:3]:
        message = f"In {part_words(found.part, words)}: {found.problem.message}"
        checks.append(Check(code="words", blocking=True, stop="words", message=message))
    if parts.version and not problems and sql is not None and parts.topic is not None:
        content = parts.version.content
        checks += _blank_checks(tx, sql, terms, fields, content)
        for advised in advice_on(content, fields)[:MOST_ADVICE]:
            inside = advised.part.startswith(("blocks.", "others.", "attachments.")) and advised.key != "lags"
            where = f"In {part_words(advised.part, content)}: " if inside else ""
            checks.append(Check(code=advised.key, blocking=False, stop="words", message=f"{where}{advised.message}"))
    running = next((run for run in store.runs_of_campaign(tx, parts.campaign.id or 0)), None)
    if running and running.state in (RunState.GOING, RunState.PAUSED):
        message = "A run of this campaign is on its way; wait for its end, or stop it in Dispatch."
        checks.append(Check(code="running", blocking=True, stop="dispatch", message=message))
    elif running:
        released = running.released_at.astimezone(ZoneInfo(require_organisation(tx).time_zone))
        message = _again_words(released, _people_with_it(tx, parts.campaign, taken, sql, terms))
        checks.append(Check(code="again", blocking=False, stop="release", message=message))
    for source in sources(tx):
        if source.before_runs:
            message = (
                f"The live source “{source.name}” is fetched first; the release stops if the number moves with it."
            )
            checks.append(Check(code="source", blocking=False, stop="release", message=message))
    return checks


# More at once is read by nobody; the next ones come when these are followed.
MOST_ADVICE = 5


def part_words(part: str, content: MessageContent) -> str:
    """Where a part of a message is, for people."""
    if part.startswith("others."):
        rest = part.split(".", 2)[2]
        return f"{part_words(rest, content)} in {language_name(language_of_part(content, part))}"
    if part.startswith("attachments."):
        return f"attachment {int(part.split('.')[1]) + 1}"
    if not part.startswith("blocks."):
        return {"blocks": "the message", "others": "the languages"}.get(part, f"the {part}")
    steps = part.split(".")
    what = next((_PART_WORDS.get(step, step) for step in reversed(steps) if not step.isdigit()), "")
    return f"block {int(steps[1]) + 1}" + (f", its {what}" if what else "")


# Where people call a part by another word than the document; a block's text is the block.
_PART_WORDS = {"text": "", "blocks": "", "url": "address", "listed": "list", "alt": "words for who does not see it"}
