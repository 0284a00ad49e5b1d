"""What a run was released with, besides the words and the people: kept with the run, and read for as long as it is kept.

A snapshot has a version; what an older one says is read by its own reader, into the same form. None of them is ever
written again, and none of the readers changed: what they read has been sent.

    1   the first
    2   formats and footer follow the message's language; before, the reader's
    3   `renderer`: the number of what makes the message of it
    4   `theme`: how letters looked; the sender's signature
    5   `shown`: the words of other messages that go along as PDFs
    6   `tracking`, `leave_domain`; a link to read it in a browser, and one that nobody sees
"""

from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field, replace
from datetime import date
from typing import Any

from uvarovite.core.contacts import Field, FieldMap, Record, field_from_json, field_to_json
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import InlayContext, locale_for, readers_locale
from uvarovite.core.messages.document import MessageContent
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.theme import THEME, Theme
from uvarovite.core.messages.tracking import Tracked, Tracking
from uvarovite.core.values import StoredForm

VERSION = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Letterhead:
    """What every message of a run has in common, besides the words. `time_zone` is an IANA name.

    `key_id` is the key that its links are signed with; `signature` are lines that the sender signs with.
    """

    organisation: str
    postal_address: str
    locale: str
    time_zone: str
    list_domain: str
    topic_key: str
    topic_name: str
    from_name: str
    from_address: str
    reply_to: str | None
    public_url: str
    key_id: int
    signature: str = ""

    def context(self, record: Record, clock: Clock, language: str | None) -> InlayContext:
        """What the inlays of one person see. `language` is the message's; None: it was released before messages had one."""
        told = record.get("language")
        reader = told if isinstance(told, str) else None
        return InlayContext(
            locale=readers_locale(reader, self.locale)
            if language is None
            else locale_for(language, reader, self.locale),
            clock=clock,
            provided={
                "organisation.name": self.organisation,
                "organisation.address": self.postal_address,
                "sender.name": self.from_name,
                "sender.signature": self.signature,
                "topic.name": self.topic_name,
            },
        )

    def footer(self, since: date | None) -> Footer:
        """The footer of one person."""
        return Footer(
            topic=self.topic_name,
            since=since,
            organisation=self.organisation,
            postal_address=self.postal_address,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Snapshot:
    """A snapshot of any version. With `readers_language` formats follow the reader's language, not the message's.

    `shown` are the words of other messages that go along as PDFs, by number. Mail to `leave_domain` comes to us: who writes there
    leaves. A message `has_copies`: a link in it shows it in a browser, and another, that nobody sees, tells machines.
    """

    letterhead: Letterhead
    fields: FieldMap
    renderer: int
    theme: Theme = THEME
    readers_language: bool = False
    shown: Mapping[int, MessageContent] = field(default_factory=dict)
    tracking: Tracking = field(default_factory=Tracking)
    leave_domain: str | None = None
    has_copies: bool = True


def snapshot_to_json(snapshot: Snapshot) -> dict[str, Any]:
    """The stored form, of the newest version. Raises ValueError for what the newest cannot say."""
    if snapshot.readers_language:
        raise ValueError("what was released before messages had a language is not written again")
    return {
        "version": VERSION,
        "renderer": snapshot.renderer,
        "setting": asdict(snapshot.letterhead),
        "fields": [field_to_json(field) for field in snapshot.fields.values()],
        "theme": asdict(snapshot.theme),
        "shown": {str(number): words.model_dump(mode="json") for number, words in snapshot.shown.items()},
        "tracking": asdict(snapshot.tracking),
        "leave_domain": snapshot.leave_domain,
        "has_copies": snapshot.has_copies,
    }


def read_snapshot(stored: Mapping[str, Any]) -> Snapshot:
    """A snapshot from its stored form. Raises KeyError for a version that there never was."""
    return _READERS[stored["version"]](stored)


def _fields(stored: Mapping[str, Any]) -> dict[str, Field]:
    return {raw["key"]: field_from_json(raw) for raw in stored["fields"]}


def _first(stored: Mapping[str, Any]) -> Snapshot:
    return Snapshot(
        letterhead=Letterhead(**stored["setting"]),
        fields=_fields(stored),
        renderer=1,
        readers_language=True,
        has_copies=False,
    )


def _second(stored: Mapping[str, Any]) -> Snapshot:
    return replace(_first(stored), readers_language=False)


def _third(stored: Mapping[str, Any]) -> Snapshot:
    return replace(_second(stored), renderer=stored["renderer"])


def _fourth(stored: Mapping[str, Any]) -> Snapshot:
    return replace(_third(stored), theme=Theme(**stored["theme"]))


def _fifth(stored: Mapping[str, Any]) -> Snapshot:
    shown = {int(number): MessageContent.model_validate(words) for number, words in stored["shown"].items()}
    return replace(_fourth(stored), shown=shown)


def _sixth(stored: Mapping[str, Any]) -> Snapshot:
    told = {about: Tracked(level) for about, level in stored["tracking"].items()}
    return replace(
        _fifth(stored), tracking=Tracking(**told), leave_domain=stored["leave_domain"], has_copies=stored["has_copies"]
    )


_READERS: Mapping[int, Callable[[Mapping[str, Any]], Snapshot]] = {
    1: _first,
    2: _second,
    3: _third,
    4: _fourth,
    5: _fifth,
    6: _sixth,
}

SNAPSHOT_FORM = StoredForm(write=snapshot_to_json, read=read_snapshot)
