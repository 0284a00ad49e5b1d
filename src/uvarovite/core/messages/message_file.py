"""A message in a file: its document, the fields that it asks for, and whose letter it is (docs/languages/message.md).

It holds all that messages are made of besides the people, so that they can be made of it without a database.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Annotated, Any, Literal
from zoneinfo import ZoneInfo

import pydantic
from babel import Locale, UnknownLocaleError
from pydantic import AfterValidator, Field

from uvarovite.core.contacts import STANDARD_FIELDS, FieldMap, Record, RecordReader, field_problem
from uvarovite.core.contacts import Field as ContactField
from uvarovite.core.contacts.lists import MOST_ITEMS
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.attachments import is_portable
from uvarovite.core.messages.blocks import PartProblem
from uvarovite.core.messages.checks import check_message
from uvarovite.core.messages.document import MessageContent
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.features import Features, features_of
from uvarovite.core.messages.links import plain_links
from uvarovite.core.messages.paper import PdfMeans, Press
from uvarovite.core.messages.passages import Part
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.messages.snapshot import Letterhead
from uvarovite.core.messages.wire import LetterMaker
from uvarovite.core.values import CURRENCIES, Address, read_address

FORMAT: Literal["uvarovite message 1"] = "uvarovite message 1"


class NotReadable(ValueError):
    """A file that is no message, or no records, of ours. Whose doing: the file's; its text says where and why."""


def _locale(told: str) -> str:
    try:
        return str(Locale.parse(told.replace("-", "_")))
    except (ValueError, UnknownLocaleError) as fault:
        raise ValueError(f"“{told}” is no locale such as en_GB") from fault


def _zone(told: str) -> str:
    try:
        return ZoneInfo(told).key
    except (KeyError, ValueError, OSError) as fault:
        raise ValueError(f"“{told}” is no time zone such as Europe/London") from fault


def _address(told: str) -> str:
    if not isinstance(read_address(told), Address):
        raise ValueError(f"“{told}” is no e-mail address")
    return told


MailAddress = Annotated[str, AfterValidator(_address)]


class FileSender(Part):
    """Who the message comes from."""

    name: str = Field(max_length=200)
    address: MailAddress
    reply_to: MailAddress | None = None
    signature: str = Field(default="", max_length=1_000)


class FileOrganisation(Part):
    """Whose message it is. `locale` such as en_GB, `time_zone` an IANA name."""

    name: str = Field(max_length=200)
    postal_address: str = Field(default="", max_length=500)
    locale: Annotated[str, AfterValidator(_locale)] = "en_GB"
    time_zone: Annotated[str, AfterValidator(_zone)] = "UTC"


class MessageFile(Part):
    """The whole file. `fields` are the organisation's own ones; the standard ones are always there."""

    format: Literal["uvarovite message 1"]
    content: MessageContent
    fields: tuple[ContactField, ...] = Field(default=(), max_length=500)
    sender: FileSender
    organisation: FileOrganisation
    topic: str = Field(default="", max_length=200)

    def known_fields(self) -> FieldMap:
        """Every field by key. Raises NotReadable for a definition that cannot be used."""
        for field in self.fields:
            if fault := field_problem(field, list(CURRENCIES)):
                raise NotReadable(f"fields: {fault}")
        return {field.key: field for field in (*STANDARD_FIELDS, *self.fields)}


def read_message_file(data: bytes) -> MessageFile:
    """A message from a file's bytes. Raises NotReadable."""
    try:
        return MessageFile.model_validate_json(data)
    except pydantic.ValidationError as fault:
        first = fault.errors()[0]
        place = ".".join(str(step) for step in first["loc"])
        raise NotReadable(f"{place or 'the file'}: {first['msg']}") from fault


def read_locale(told: str) -> str:
    """A locale such as de_AT. Raises NotReadable."""
    try:
        return _locale(told)
    except ValueError as fault:
        raise NotReadable(str(fault)) from fault


def read_records(data: bytes, fields: FieldMap) -> list[Record]:
    """Records from a file's bytes: a JSON array of objects with an address each. Raises NotReadable."""
    try:
        stored = pydantic.TypeAdapter(list[dict[str, Any]]).validate_json(data)
    except pydantic.ValidationError as fault:
        raise NotReadable(f"the records are no JSON array of objects: {fault.errors()[0]['msg']}") from fault
    reader = RecordReader(fields)
    return [_record(one, number, fields, reader) for number, one in enumerate(stored, 1)]


def _record(stored: Mapping[str, Any], number: int, fields: FieldMap, reader: RecordReader) -> Record:
    unknown = next((key for key in stored if key not in fields), None)
    if unknown is not None:
        raise NotReadable(f"record {number}: there is no field “{unknown}”")
    try:
        record = reader.filled(stored)
    except (TypeError, ValueError, ArithmeticError, KeyError, AttributeError) as fault:
        raise NotReadable(f"record {number}: a value does not fit its field ({fault})") from fault
    for key, value in record.items():
        if isinstance(value, tuple) and len(value) > MOST_ITEMS:
            raise NotReadable(f"record {number}: {key} has {len(value):,} records; at most {MOST_ITEMS} are taken")
    address = record.get("address")
    if not isinstance(address, str) or not isinstance(read_address(address), Address):
        raise NotReadable(f"record {number}: it has no e-mail address under “address”")
    return record


def problems_of(message: MessageFile) -> list[PartProblem]:
    """What is wrong with the words. Raises NotReadable for fields that cannot be used, and for files: it has none."""
    if not all(map(is_portable, message.content.attachments)):
        raise NotReadable(
            "content.attachments: a message file carries no files and no other messages; itself as a PDF and entries for "
            "calendars it does"
        )
    return check_message(message.content, message.known_fields())


class FileMaker:
    """Makes the messages of a file that has no problems. `now` is aware; `locale` stands in for the organisation's.
    Without a `press` a PDF has no bytes.

    Links are untracked, and the one for leaving leads nowhere.
    """

    def __init__(
        self, message: MessageFile, *, now: datetime, locale: str | None = None, press: Press | None = None
    ) -> None:
        organisation, sender = message.organisation, message.sender
        self._now, self._domain = now, sender.address.rpartition("@")[2]
        self._clock = Clock.at(now, organisation.time_zone)
        means = PdfMeans(locale=locale or organisation.locale, press=press)
        self._maker = LetterMaker(message.content, message.known_fields(), means=means)
        self._letterhead = Letterhead(
            organisation=organisation.name,
            postal_address=organisation.postal_address,
            locale=locale or organisation.locale,
            time_zone=organisation.time_zone,
            list_domain=self._domain,
            topic_key="",
            topic_name=message.topic,
            from_name=sender.name,
            from_address=sender.address,
            reply_to=sender.reply_to,
            public_url="",
            key_id=0,
            signature=sender.signature,
        )
        self._sender = SenderWords(self._letterhead, message.known_fields())

    def _context(self, record: Record) -> InlayContext:
        return self._sender.context(record, self._clock, self._maker.language_for(record))

    def make(self, record: Record, number: int) -> bytes:
        """The message for a record, the `number`th: its bytes with CRLF."""
        letterhead, context = self._letterhead, self._context(record)
        names = [record.get("first_name"), record.get("last_name")]
        envelope = Envelope(
            message_id=f"{self._now:%Y%m%d%H%M%S}.{number}@{self._domain}",
            date=self._now,
            from_name=self._sender.name(record, context),
            from_address=letterhead.from_address,
            to_name=" ".join(name for name in names if isinstance(name, str)),
            to_address=str(record["address"]),
            reply_to=self._sender.reply_to(record, context),
            list_id=None,
            unsubscribe_url=None,
        )
        return self._maker.raw(record, context, plain_links(), letterhead.footer(None), envelope)

    def features(self, records: Sequence[Record]) -> Features:
        """What the messages of records show."""
        return features_of(self._maker.letter_for, ((record, self._context(record)) for record in records))
