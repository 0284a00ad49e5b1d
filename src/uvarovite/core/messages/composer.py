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
from uvarovite.core.messages.links import Links, plain_links
from uvarovite.core.messages.paper import PdfMeans, Press
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.renderers import RENDERERS
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.messages.snapshot import Snapshot
from uvarovite.core.messages.tracking import Tracked
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

    def counted_click(self, run_id: int, number: int) -> str:
        """That of link `number` for all of a run: it does not tell who follows it."""

    def counted_open(self, run_id: int) -> str:
        """That of a pixel for all of a run."""

    def copy(self, delivery_id: int) -> str:
        """That of the copy in a browser."""

    def unseen(self, delivery_id: int) -> str:
        """That of the link that only machines find."""

    def leave_address(self, delivery_id: int, domain: str) -> str:
        """The address to which one writes to leave."""


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
        self._tracking = snapshot.tracking
        self._has_copies = snapshot.has_copies
        self._leave_domain = snapshot.leave_domain
        self._run_id = run_id
        self._tokens = tokens
        self._clocks: tuple[datetime | None, Clock | None] = (None, None)
        self._footers: dict[date | None, Footer] = {}
        self.links = self._maker.links
        self._shared = {link.number for link in self.links if link.address is not None}
        # A letter on paper is laid out by another process, which takes as long as hundreds of messages.
        self.is_slow = any(one.get("kind") == "pdf" for one in content.get("attachments", ()))

    def links_for(self, delivery_id: int, wish: Tracked | None = None) -> Links:
        """The links of one delivery to somebody who wishes that no more than this is noted of them.

        A mailto link is never tracked: it opens no page. Where clicks are only counted, a link with something of the person's own
        is not tracked either: whoever follows it would be told by that.
        """
        base, tokens, run_id = self.letterhead.public_url, self._tokens, self._run_id
        tracking = self._tracking.within(wish)

        def click(number: int, address: str) -> str:
            if address[:7].lower() == "mailto:":
                return address
            if tracking.clicks is Tracked.BY_PERSON:
                return f"{base}/r/{tokens.click(delivery_id, number)}"
            if tracking.clicks is Tracked.COUNTED and number in self._shared:
                return f"{base}/r/{tokens.counted_click(run_id, number)}"
            return address

        pixel = None
        if tracking.opens is not Tracked.OFF:
            by_person = tracking.opens is Tracked.BY_PERSON
            pixel = f"{base}/o/{tokens.open(delivery_id) if by_person else tokens.counted_open(run_id)}.gif"
        tells_machines = self._has_copies and tracking.clicks is Tracked.BY_PERSON
        return Links(
            click=click,
            unsubscribe=f"{base}/u/{tokens.leave(delivery_id)}",
            pixel=pixel,
            copy=f"{base}/v/{tokens.copy(delivery_id)}" if self._has_copies else None,
            unseen=f"{base}/r/{tokens.unseen(delivery_id)}" if tells_machines else None,
        )

    def message_id(self, delivery_id: int) -> str:
        """The Message-ID of a delivery, without brackets."""
        return f"{self._run_id}.{delivery_id}.{self.letterhead.topic_key}@{self.letterhead.list_domain}"

    def own_addresses(self, record_json: Mapping[str, Any], marked_at: datetime) -> dict[int, str]:
        """Where the links lead that hold something of the person's own, by number."""
        if len(self._shared) == len(self.links):
            return {}
        record = self._records.filled(record_json)
        context = self._context(record, marked_at)
        addresses = self._maker.addresses(record, context)
        return {number: address for number, address in addresses.items() if number not in self._shared}

    def compose(
        self,
        *,
        delivery_id: int,
        address: str,
        record_json: Mapping[str, Any],
        consent_since: date | None,
        marked_at: datetime,
        wish: Tracked | None = None,
    ) -> Composed:
        """The message of one delivery, as of when it was marked as being sent. `wish`: what they wished then to be noted of them."""
        record = self._records.filled(record_json)
        links = self.links_for(delivery_id, wish)
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
            leave_address=self._tokens.leave_address(delivery_id, self._leave_domain) if self._leave_domain else None,
        )
        return Composed(
            raw=self._maker.raw(record, context, links, footer, envelope),
            to_address=wire_form(address),
            read=lambda: self._maker.render(record, context, links, footer),
        )

    def in_browser(
        self,
        *,
        delivery_id: int,
        record_json: Mapping[str, Any],
        consent_since: date | None,
        marked_at: datetime,
        wish: Tracked | None = None,
    ) -> str:
        """The HTML of one delivery to be shown to its reader: no pixel, and no link to itself."""
        record = self._records.filled(record_json)
        links = self.links_for(delivery_id, wish)._replace(pixel=None, copy=None, unseen=None)
        context = self._context(record, marked_at)
        return self._maker.render(record, context, links, self._footer(consent_since)).html

    def for_everybody(self, now: datetime) -> str:
        """The HTML as it is for somebody of whom nothing is known: nobody's data, and no link that tells who follows it."""
        record = self._records.filled({})
        links = plain_links()._replace(unsubscribe="")
        return self._maker.render(record, self._context(record, now), links, self._footer(None)).html

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
