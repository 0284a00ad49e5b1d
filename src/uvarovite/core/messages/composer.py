"""A person's message, from what a run was released with: the same pure function for a worker and for whoever looks later.

With the message version and the record that stand in the delivery, the bytes that were sent can be made again at any
time.
"""

from collections.abc import Callable, Mapping
from datetime import date, datetime
from typing import Any, NamedTuple, Protocol

from uvarovite.core.contacts import Record, RecordReader
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.attachments import NO_FILES, KeptFile
from uvarovite.core.messages.envelope import Envelope
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.links import Links
from uvarovite.core.messages.paper import PdfMeans, Press
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderers import RENDERERS
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.messages.snapshot import Snapshot
from uvarovite.core.values import wire_form

# One for each day on which somebody joined: some ten years of them.
_MOST_FOOTERS = 4_096


class Tokens(Protocol):
    """Signed texts by which the links of a delivery are known again."""

    def click(self, delivery_id: int, number: int) -> str:
        """That of link `number`."""

    def leave(self, delivery_id: int) -> str:
        """That of the way to leave."""

    def open(self, delivery_id: int) -> str:
        """That of the pixel."""


class Composed(NamedTuple):
    """One delivery's message, its bytes, and the address for the envelope; `read` gives it to be read."""

    raw: bytes
    to_address: str
    read: Callable[[], RenderedMessage]


class Composer:
    """Composes the messages of one run; compiled once, then a pure function of a delivery."""

    def __init__(
        self,
        *,
        snapshot: Snapshot,
        content: Mapping[str, Any],
        run_id: int,
        tokens: Tokens,
        files: Mapping[str, KeptFile] = NO_FILES,
        press: Press | None = None,
    ) -> None:
        self.letterhead = snapshot.letterhead
        self._records = RecordReader(snapshot.fields)
        means = PdfMeans(others=snapshot.shown, locale=snapshot.letterhead.locale, press=press)
        self._maker = RENDERERS[snapshot.renderer](content, snapshot.fields, snapshot.theme, files, means)
        self._sender = SenderWords(snapshot.letterhead, snapshot.fields)
        self._readers_language = snapshot.readers_language
        self._run_id = run_id
        self._tokens = tokens
        self._clocks: tuple[datetime | None, Clock | None] = (None, None)
        self._footers: dict[date | None, Footer] = {}
        self.links = self._maker.links
        # A letter on paper is laid out by another process, which takes as long as hundreds of messages.
        self.is_slow = any(one.get("kind") == "pdf" for one in content.get("attachments", ()))

    def links_for(self, delivery_id: int) -> Links:
        """The tracked links of one delivery. A mailto link is never tracked: it opens no page."""
        base = self.letterhead.public_url
        click_token = self._tokens.click

        def click(number: int, address: str) -> str:
            return address if address[:7].lower() == "mailto:" else f"{base}/r/{click_token(delivery_id, number)}"

        return Links(
            click=click,
            unsubscribe=f"{base}/u/{self._tokens.leave(delivery_id)}",
            pixel=f"{base}/o/{self._tokens.open(delivery_id)}.gif",
        )

    def message_id(self, delivery_id: int) -> str:
        """The Message-ID of a delivery, without brackets."""
        return f"{self._run_id}.{delivery_id}.{self.letterhead.topic_key}@{self.letterhead.list_domain}"

    def own_addresses(self, record_json: Mapping[str, Any], marked_at: datetime) -> dict[int, str]:
        """Where the links lead that hold something of the person's own, by number."""
        shared = {link.number for link in self.links if link.address is not None}
        if len(shared) == len(self.links):
            return {}
        record = self._records.filled(record_json)
        context = self._context(record, marked_at)
        addresses = self._maker.addresses(record, context)
        return {number: address for number, address in addresses.items() if number not in shared}

    def compose(
        self,
        *,
        delivery_id: int,
        address: str,
        record_json: Mapping[str, Any],
        consent_since: date | None,
        marked_at: datetime,
    ) -> Composed:
        """The message of one delivery, as of when it was marked as being sent."""
        record = self._records.filled(record_json)
        links = self.links_for(delivery_id)
        context = self._context(record, marked_at)
        footer = self._footer(consent_since)
        names = [record.get("first_name"), record.get("last_name")]
        envelope = Envelope(
            message_id=self.message_id(delivery_id),
            date=marked_at,
            from_name=self._sender.name(record, context),
            from_address=self.letterhead.from_address,
            to_name=" ".join(name for name in names if isinstance(name, str)),
            to_address=address,
            reply_to=self._sender.reply_to(record, context),
            list_id=f"{self.letterhead.topic_key}.{self.letterhead.list_domain}",
            unsubscribe_url=links.unsubscribe,
        )
        return Composed(
            raw=self._maker.raw(record, context, links, footer, envelope),
            to_address=wire_form(address),
            read=lambda: self._maker.render(record, context, links, footer),
        )

    def _context(self, record: Record, now: datetime) -> InlayContext:
        language = None if self._readers_language else self._maker.language_for(record)
        return self._sender.context(record, self._clock(now), language)

    def _clock(self, now: datetime) -> Clock:
        # Those who are marked together have one.
        known, clock = self._clocks
        if clock is None or known is not now:
            clock = Clock.at(now, self.letterhead.time_zone)
            self._clocks = (now, clock)
        return clock

    def _footer(self, since: date | None) -> Footer:
        footer = self._footers.get(since)
        if footer is None:
            if len(self._footers) >= _MOST_FOOTERS:
                self._footers.clear()
            footer = self._footers[since] = self.letterhead.footer(since)
        return footer
