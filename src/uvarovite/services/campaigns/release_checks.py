"""What stands between a campaign and its release."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.audiences import Again, ClearanceTerms
from uvarovite.core.campaigns import Pace
from uvarovite.core.campaigns.checks import CHECKS
from uvarovite.core.contacts import FieldMap
from uvarovite.core.delivery import RunState
from uvarovite.core.expressions import SqlFragment, print_criteria
from uvarovite.core.messages import MessageContent, advice_on, fields_without_fallback
from uvarovite.core.messages.advice import language_name
from uvarovite.core.messages.document import language_of_part
from uvarovite.core.messages.sender_words import reply_to_problem, sender_problem
from uvarovite.core.values.sentences import sentence
from uvarovite.services.audiences.clearance import ClearanceView
from uvarovite.services.messages.blanks import blank_conditions
from uvarovite.services.messages.messages import PartProblemView
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import Pool, load_pool
from uvarovite.services.organisation.senders import may_send_as, senders_people
from uvarovite.services.saving.drafts import OpenDraft, open_drafts
from uvarovite.store import messages as message_store
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.comments import open_comments
from uvarovite.store.database import Transaction
from uvarovite.store.sources import sources
from uvarovite.store.tables import Audience, Campaign, DraftKind, Message, MessageVersion, Sender, Topic


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
    pool: Pool | None
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
        pool=load_pool(tx, campaign.pool_id),
        pace=campaign.pace,
        criteria=print_criteria(audience.criteria) if audience else None,
    )


def drafts_of(tx: Transaction, campaign: Campaign, user_id: int | None) -> list[OpenDraft]:
    """Who has changed the audience or the words of a campaign and not saved that."""
    things = [(DraftKind.AUDIENCE, campaign.audience_id), (DraftKind.MESSAGE, campaign.message_id)]
    return open_drafts(tx, [(kind, one) for kind, one in things if one is not None], user_id)


def release_check(code: str, **facts: str | int) -> Check:
    """The check of a row in CHECKS, with its facts."""
    row = CHECKS[code]
    return Check(code=code, blocking=row.blocking, stop=row.stop, message=sentence(row.words, facts))


def _draft_check(draft: OpenDraft) -> Check:
    """One's own open draft stands in the way; somebody else's is theirs to finish, and is named."""
    if draft.mine:
        return release_check(f"draft_{draft.kind}")
    return release_check(f"others_draft_{draft.kind}", by=draft.by)


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
            label, example = fields[key].label.lower(), f'@{{{key} else "…"}}'
            checks.append(release_check("blank_field", count=blank, field=label, who=who, example=example))
    return checks


def _sender_problem(sender: Sender, fields: FieldMap) -> str | None:
    """What became wrong with a sender's inlays since it was saved: a field is gone, or another one now."""
    told = sender_problem(sender.name, fields)
    if told is None and "@{" in (sender.reply_to or ""):
        told = reply_to_problem(sender.reply_to or "", fields)
    return told


def _people_with_it(
    tx: Transaction, campaign: Campaign, taken: ClearanceView | None, sql: SqlFragment | None, terms: ClearanceTerms
) -> int:
    """How many of those who are cleared were sent something by an earlier run of the campaign."""
    if sql is None or taken is None or taken.cleared == 0 or campaign.again == Again.NEW_TO_CAMPAIGN:
        return 0
    fresh = audience_store.count_cleared(tx, sql, replace(terms, again=Again.NEW_TO_CAMPAIGN, is_taken=False))
    return taken.cleared - fresh


def _who_has_it(had: int) -> str:
    who = {0: "nobody who got it then gets anything again", 1: "1 person who got it then gets this as well"}
    return who.get(had, f"{had:,} people who got it then get this as well")


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
    user_id: int | None,
) -> list[Check]:
    """All checks of a campaign, the blocking ones first where they come first to mind.

    `fault` is what keeps the audience's criteria from being used, `drafts` what of it somebody changed and did not save;
    `user_id` is who asks.
    """
    checks = [
        check
        for check, part in (
            (release_check("no_audience"), parts.audience),
            (release_check("no_topic"), parts.topic),
            (release_check("no_message"), parts.version),
            (release_check("no_sender"), parts.sender),
            (release_check("no_relay"), parts.pool if parts.pool and parts.pool.relays else None),
        )
        if part is None
    ]
    if parts.sender and (told := _sender_problem(parts.sender, fields)):
        checks.append(release_check("sender_words", sender=parts.sender.name, told=told))
    if parts.sender and not may_send_as(parts.sender, user_id):
        who = senders_people(tx, parts.sender)
        checks.append(release_check("not_your_sender", sender=parts.sender.name, who=who))
    checks += [_draft_check(draft) for draft in drafts]
    if parts.version and (said := open_comments(tx, parts.version.message_id)):
        checks.append(release_check("comments", count=said))
    if fault is not None:
        checks.append(release_check("criteria", told=fault))
    if taken is not None and taken.cleared == 0:
        checks.append(release_check("nobody"))
    words = parts.version.content if parts.version else MessageContent()
    for found in problems[:3]:
        checks.append(release_check("words", where=part_words(found.part, words), told=found.problem.message))
    if parts.version and not problems and sql is not None and parts.topic is not None:
        content = parts.version.content
        checks += _blank_checks(tx, sql, terms, fields, content)
        for advised in advice_on(content, fields)[:MOST_ADVICE]:
            inside = advised.part.startswith(("blocks.", "others.", "attachments.")) and advised.key != "lags"
            where = f"In {part_words(advised.part, content)}: " if inside else ""
            checks.append(Check(code=advised.key, blocking=False, stop="words", message=f"{where}{advised.message}"))
    running = next((run for run in store.runs_of_campaign(tx, parts.campaign.id or 0)), None)
    if running and running.state in (RunState.GOING, RunState.PAUSED):
        checks.append(release_check("running"))
    elif running:
        released = running.released_at.astimezone(ZoneInfo(require_organisation(tx).time_zone))
        who = _who_has_it(_people_with_it(tx, parts.campaign, taken, sql, terms))
        checks.append(release_check("again", day=f"{released:%-d %B %Y}", who=who))
    checks += [release_check("source", source=source.name) for source in sources(tx) if source.before_runs]
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
