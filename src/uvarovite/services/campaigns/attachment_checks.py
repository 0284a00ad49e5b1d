"""What stands between a campaign and its release because of what is attached to its message."""

from collections.abc import Iterator
from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import MOST_TOGETHER, CalendarEntry, days_of, encoded_size, files_of
from uvarovite.core.values.sentences import sentence
from uvarovite.services.campaigns.release_checks import CampaignParts, Check
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.attachments import kept_files
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.database import Transaction

# What the words, the headers and the footer of a letter take at most, beside what is attached to it, in bytes.
_WORDS = 300 << 10

ATTACHMENT_CHECKS = {
    "file_gone": "A file that is attached is not kept any more. Attach it again.",
    "files_heavy": "The attached files have {size} MB together, and at most {most} MB go with a message: many mailboxes "
    "take no more. Put the largest on your website, and link to it.",
    "relay_takes_less": "With what is attached a message has up to {size} MB, and “{relay}” says that it takes {most} MB. "
    "Attach less, or choose another relay.",
    "entry_left_out": "{count:person has|people have} nothing in {field}: no entry for the calendar goes with that message.",
    "entry_past": "The entry for the calendar is on {day}, which is past.",
}
_BLOCKING = ("file_gone", "files_heavy", "relay_takes_less")


def attachment_checks(
    tx: Transaction,
    parts: CampaignParts,
    fields: FieldMap,
    sql: SqlFragment | None,
    terms: ClearanceTerms,
    now: datetime,
) -> list[Check]:
    """All checks of what is attached to the words of a campaign, which have no problems."""
    content = parts.version.content if parts.version else MessageContent()
    found = [
        *_of_files(tx, parts, content),
        *(_left_out(tx, content, fields, sql, terms) if sql is not None and parts.topic is not None else ()),
        *_past(tx, content, now),
    ]
    return [
        Check(code=key, blocking=key in _BLOCKING, stop="words", message=sentence(ATTACHMENT_CHECKS[key], facts))
        for key, facts in found
    ]


_Found = Iterator[tuple[str, dict[str, str | int]]]


def _of_files(tx: Transaction, parts: CampaignParts, content: MessageContent) -> _Found:
    wanted = files_of(content.attachments)
    kept = kept_files(tx, wanted, whole=False)
    if len(kept) < len(wanted):
        yield "file_gone", {}
    # A file that is attached twice comes twice.
    sizes = [kept[one.file].size for one in content.attachments if one.kind == "file" and one.file in kept]
    if sum(sizes) > MOST_TOGETHER:
        yield "files_heavy", {"size": _megabytes(sum(sizes)), "most": MOST_TOGETHER >> 20}
        return
    whole = sum(map(encoded_size, sizes)) + _WORDS
    if sizes and parts.relay and parts.relay.largest_bytes and whole > parts.relay.largest_bytes:
        most = _megabytes(parts.relay.largest_bytes)
        yield "relay_takes_less", {"size": _megabytes(whole), "most": most, "relay": parts.relay.name}


def _left_out(
    tx: Transaction, content: MessageContent, fields: FieldMap, sql: SqlFragment, terms: ClearanceTerms
) -> _Found:
    days = days_of(content.attachments)
    blanks = [audience_store.blank_sql(key, standard=fields[key].standard, among=(), others=()) for key in days]
    counted = audience_store.blanks_among_cleared(tx, sql, terms, blanks)
    for key, (count, _) in zip(days, counted, strict=True):
        if count:
            yield "entry_left_out", {"count": count, "field": fields[key].label}


def _past(tx: Transaction, content: MessageContent, now: datetime) -> _Found:
    today = now.astimezone(ZoneInfo(require_organisation(tx).time_zone)).date()
    for one in content.attachments:
        if isinstance(one, CalendarEntry) and (day := one.fixed_day()) and day < today:
            yield "entry_past", {"day": f"{day:%-d %B %Y}"}


def _megabytes(size: int) -> str:
    return f"{size / (1 << 20):.1f}"
