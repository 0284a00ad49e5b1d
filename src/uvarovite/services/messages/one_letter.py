"""One person's letter of words that may not be saved yet: as a test, as a file, as its source."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from functools import partial

from uvarovite.core.contacts import Record
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages import Envelope, Letterhead, LetterMaker, MessageContent, RenderedMessage, plain_links
from uvarovite.core.messages.letter import context_of
from uvarovite.core.messages.paper import MessagePages, PdfMeans, Press
from uvarovite.core.messages.sender_words import SenderWords
from uvarovite.core.responses import Keyring
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.composing import maker_now, theme_now
from uvarovite.services.messages.messages import letterhead_or_first, problem_views
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.contacts import records as contact_store
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Transaction


@dataclass(frozen=True, slots=True, kw_only=True)
class LetterAsk:
    """Words, and whose letter of them is wanted; the first topic and sender where none is chosen."""

    content: MessageContent
    contact_id: int
    topic_id: int | None
    sender_id: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class OneLetter:
    """What one person's letter is made with. Its links are untracked; its way to leave leads nowhere unless it is told."""

    maker: LetterMaker
    pages: Callable[[], MessagePages]
    letterhead: Letterhead
    sender: SenderWords
    record: Record
    now: datetime

    def _context(self) -> InlayContext:
        clock = Clock.at(self.now, self.letterhead.time_zone)
        return self.sender.context(self.record, clock, self.maker.language_for(self.record))

    def raw(self, *, message_id: str, to_address: str, leave_url: str | None = None) -> bytes:
        """The bytes of the letter to an address; `message_id` is what stands before the @ of the Message-ID.

        With a `leave_url` it is bulk mail (RFC 8058, RFC 2919).
        """
        context, links = self._context(), plain_links()
        list_id = None
        if leave_url is not None:
            links = links._replace(unsubscribe=leave_url)
            list_id = f"{self.letterhead.topic_key}.{self.letterhead.list_domain}"
        envelope = Envelope(
            message_id=f"{message_id}@{self.letterhead.list_domain}",
            date=self.now,
            from_name=self.sender.name(self.record, context),
            from_address=self.letterhead.from_address,
            to_name="",
            to_address=to_address,
            reply_to=self.sender.reply_to(self.record, context),
            list_id=list_id,
            unsubscribe_url=leave_url,
        )
        return self.maker.raw(self.record, context, links, self.letterhead.footer(None), envelope)

    def pdf(self) -> bytes:
        """The letter's words as a PDF. Raises BadInput."""
        context = context_of(self._context(), plain_links(), self.letterhead.footer(None))
        return self.pages().pdf(self.record, context)

    def rendered(self) -> RenderedMessage:
        """The letter to be read."""
        return self.maker.render(self.record, self._context(), plain_links(), self.letterhead.footer(None))


def one_letter(
    tx: Transaction, ask: LetterAsk, *, keyring: Keyring, now: datetime, press: Press | None = None
) -> OneLetter:
    """The letter of a contact; what is attached has its bytes only with a `press`. Raises BadInput, NotFound."""
    fields = load_fields(tx)
    problems = problem_views(ask.content, fields)
    if problems:
        raise BadInput("problems", f"Mend this first: {problems[0].problem.message}")
    contact = contact_store.get_contact(tx, ask.contact_id)
    if contact is None:
        raise NotFound("contact")
    letterhead = letterhead_or_first(tx, ask.topic_id, ask.sender_id, keyring)
    organisation = require_organisation(tx)
    means = PdfMeans(locale=organisation.locale, press=press)
    return OneLetter(
        maker=maker_now(tx, ask.content, fields, press=press),
        pages=partial(MessagePages, ask.content, fields, theme_now(organisation), means),
        letterhead=letterhead,
        sender=SenderWords(letterhead, fields),
        record=contact_store.record_of(contact, fields),
        now=now,
    )
