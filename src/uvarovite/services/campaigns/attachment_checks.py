"""What stands between a campaign and its release because of what is attached to its message."""

from collections.abc import Iterator, Mapping
from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.contacts import FieldMap
from uvarovite.core.expressions import SqlFragment
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import (
    MOST_AT_HAND,
    MOST_TOGETHER,
    AttachedFile,
    CalendarEntry,
    KeptFile,
    MessagePdf,
    OwnFiles,
    encoded_size,
    files_of,
    messages_shown,
)
from uvarovite.core.messages.checks import check_message
from uvarovite.core.messages.kept_pictures import embedded_digests
from uvarovite.services.audiences.clearance import lacks_own_file
from uvarovite.services.campaigns.release_checks import CampaignParts, Check, release_check
from uvarovite.services.messages.pdfs import words_shown, words_to_show
from uvarovite.services.messages.pictures import weight_of_pictures
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.attachments import kept_files, kept_pictures
from uvarovite.store.audiences import audiences as audience_store
from uvarovite.store.database import Transaction
from uvarovite.store.tables import Message

# What the words, the headers and the footer of a letter take at most, beside what is attached to it, in bytes.
_WORDS = 300 << 10
# Pictures that go along with every single message cost time and space in every mailbox.
_LIGHT = 300 << 10
# A PDF beside the pictures in it: letters of nine scripts, bold and slanted, have 260 KB.
_PDF = 300 << 10


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
    return [
        *_of_pdfs(tx, content, fields),
        *_of_files(tx, parts, content, fields),
        *(_left_out(tx, content, fields, sql, terms) if sql is not None and parts.topic is not None else ()),
        *_past(tx, content, now),
    ]


def _of_pdfs(tx: Transaction, content: MessageContent, fields: FieldMap) -> Iterator[Check]:
    for message_id in messages_shown(content.attachments):
        message, words = tx.get(Message, message_id), words_to_show(tx, message_id)
        if message is None or words is None:
            yield release_check("pdf_gone")
        elif problems := check_message(words, fields):
            yield release_check("pdf_faulty", message=message.name, told=problems[0].problem.message)


def _of_files(tx: Transaction, parts: CampaignParts, content: MessageContent, fields: FieldMap) -> Iterator[Check]:
    wanted = files_of(content.attachments)
    kept = kept_files(tx, wanted, whole=False)
    if len(kept) < len(wanted):
        yield release_check("file_gone")
    along = embedded_digests(content.model_dump(mode="json"))
    pictures = kept_pictures(tx, along, whole=False)
    if len(pictures) < len(along):
        yield release_check("picture_gone")
    heaviest = max(_of_pictures(words, pictures) for _, words in content.versions())
    if heaviest > _LIGHT:
        yield release_check("pictures_along", size=_megabytes(heaviest))
    for one in content.attachments:
        if isinstance(one, OwnFiles):
            own = sum(kept[named.file].size for named in one.files if named.file in kept)
            if own > MOST_AT_HAND:
                yield release_check("own_files_heavy", size=_megabytes(own), most=MOST_AT_HAND >> 20)
    shown = words_shown(tx, content, fields)
    sizes = max(
        (_sizes(tx, content, words, kept | pictures, shown, fields) for _, words in content.versions()), key=sum
    )
    if sum(sizes) > MOST_TOGETHER:
        yield release_check("files_heavy", size=_megabytes(sum(sizes)), most=MOST_TOGETHER >> 20)
        return
    whole = sum(map(encoded_size, sizes)) + _WORDS
    if sizes and parts.pool and parts.pool.largest_bytes and whole > parts.pool.largest_bytes:
        most = _megabytes(parts.pool.largest_bytes)
        yield release_check("relay_takes_less", size=_megabytes(whole), most=most, relay=parts.pool.called)


def _sizes(
    tx: Transaction,
    content: MessageContent,
    words: MessageContent,
    kept: Mapping[str, KeptFile],
    shown: Mapping[int, MessageContent],
    fields: FieldMap,
) -> list[int]:
    """What goes at most with the words in one language, in bytes each."""
    sizes = [_of_pictures(words, kept)]
    for one in content.attachments:
        if not one.goes_with(words.language):
            continue
        if isinstance(one, AttachedFile):
            # One that is attached twice comes twice.
            sizes += [kept[one.file].size] if one.file in kept else []
        elif isinstance(one, OwnFiles):
            sizes.append(max((kept[named.file].size for named in one.files if named.file in kept), default=0))
        elif isinstance(one, MessagePdf):
            printed = content if one.message_id is None else shown.get(one.message_id)
            sizes += [_PDF + weight_of_pictures(tx, printed, fields)] if printed is not None else []
    return [size for size in sizes if size]


def _of_pictures(words: MessageContent, kept: Mapping[str, KeptFile]) -> int:
    """What the pictures have in bytes that go along with words, all of them together."""
    return sum(kept[digest].size for digest in embedded_digests(words.model_dump(mode="json")) if digest in kept)


def _left_out(
    tx: Transaction, content: MessageContent, fields: FieldMap, sql: SqlFragment, terms: ClearanceTerms
) -> Iterator[Check]:
    others = [other.language for other in content.others]
    days: dict[str, list[str]] = {}
    for entry in content.attachments:
        if isinstance(entry, CalendarEntry) and not entry.fixed_day():
            days.setdefault(entry.day, []).extend(content.readers_of(entry))
    blanks = [
        audience_store.blank_sql(key, standard=fields[key].standard, among=among, others=others)
        for key, among in days.items()
    ]
    counted = audience_store.blanks_among_cleared(tx, sql, terms, blanks)
    for key, (count, _) in zip(days, counted, strict=True):
        if count:
            yield release_check("entry_left_out", count=count, field=fields[key].label)
    for place, one in enumerate(content.attachments):
        if (
            isinstance(one, OwnFiles)
            and (lacks := lacks_own_file(content, one, fields, prefix=f"own{place}_")) is not None
        ):
            (count, _), *_ = audience_store.blanks_among_cleared(tx, sql, terms, [lacks.text], lacks.parameters)
            if count:
                yield release_check("own_file_missing", count=count, name=one.name)


def _past(tx: Transaction, content: MessageContent, now: datetime) -> Iterator[Check]:
    today = now.astimezone(ZoneInfo(require_organisation(tx).time_zone)).date()
    for one in content.attachments:
        if isinstance(one, CalendarEntry) and (day := one.fixed_day()) and day < today:
            yield release_check("entry_past", day=f"{day:%-d %B %Y}")


def _megabytes(size: int) -> str:
    return f"{size / (1 << 20):.1f}"
