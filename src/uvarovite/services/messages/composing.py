"""A person's message, from what a run was released with: the same pure function for the lens, a test and the worker.

A run keeps a snapshot of everything that a message reads besides the person's own record. With the message version and
the record that stand in the delivery, the bytes that were sent can be made again at any time.
"""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from datetime import date, datetime
from typing import Any

from uvarovite.core.contacts import Field, FieldMap, Record, field_from_json, field_to_json, record_from_json
from uvarovite.core.expressions import Clock
from uvarovite.core.inlay import MergeContext, locale_for, readers_locale
from uvarovite.core.messages import (
    CompiledMessage,
    Envelope,
    Footer,
    Links,
    MessageContent,
    RenderedMessage,
    assemble,
    compile_message,
)
from uvarovite.core.responses import Keyring, Purpose, Token, sign_token
from uvarovite.core.values import wire_form
from uvarovite.services.organisation.facts import clock_for
from uvarovite.store.tables import Organisation, Sender, Topic


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """What every message of a run has in common, besides the words. `time_zone` is an IANA name."""

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

    def context(self, record: Record, clock: Clock, language: str | None) -> MergeContext:
        """The merge context of one person. `language` is the message's; None: it was released before messages had one."""
        told = record.get("language")
        reader = told if isinstance(told, str) else None
        return MergeContext(
            locale=readers_locale(reader, self.locale)
            if language is None
            else locale_for(language, reader, self.locale),
            clock=clock,
            provided={
                "organisation.name": self.organisation,
                "organisation.address": self.postal_address,
                "sender.name": self.from_name,
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


def setting_for(
    organisation: Organisation, topic: Topic, sender: Sender, *, public_url: str, keyring: Keyring
) -> Setting:
    """The setting as it is now."""
    return Setting(
        organisation=organisation.name,
        postal_address=organisation.postal_address,
        locale=organisation.locale,
        time_zone=organisation.time_zone,
        list_domain=organisation.list_domain,
        topic_key=topic.key,
        topic_name=topic.name,
        from_name=sender.name,
        from_address=sender.address,
        reply_to=sender.reply_to,
        public_url=public_url.rstrip("/"),
        key_id=keyring.current,
    )


def snapshot_json(setting: Setting, fields: FieldMap) -> dict[str, Any]:
    """What a run stores."""
    return {"version": 2, "setting": asdict(setting), "fields": [field_to_json(field) for field in fields.values()]}


@dataclass(frozen=True, slots=True, kw_only=True)
class Composed:
    """One delivery's message, its bytes, and the address for the envelope."""

    rendered: RenderedMessage
    raw: bytes
    to_address: str


class Composer:
    """Composes the messages of one run; compiled once, then a pure function of a delivery."""

    def __init__(
        self, *, snapshot: Mapping[str, Any], content: Mapping[str, Any], run_id: int, keyring: Keyring
    ) -> None:
        self.setting = Setting(**snapshot["setting"])
        self.fields: dict[str, Field] = {raw["key"]: field_from_json(raw) for raw in snapshot["fields"]}
        words = MessageContent.model_validate(content)
        self.compiled: CompiledMessage = compile_message(words, self.fields)
        self._language = words.language if snapshot["version"] >= 2 else None
        self._run_id = run_id
        self._keyring = keyring

    def _token(self, purpose: Purpose, delivery_id: int, number: int = 0) -> str:
        token = Token(purpose=purpose, delivery_id=delivery_id, number=number)
        return sign_token(token, self._keyring, self.setting.key_id)

    def links_for(self, delivery_id: int) -> Links:
        """The tracked links of one delivery. A mailto link is never tracked: it opens no page."""
        base = self.setting.public_url
        return Links(
            click=lambda number, address: (
                address
                if address.lower().startswith("mailto:")
                else f"{base}/r/{self._token(Purpose.CLICK, delivery_id, number)}"
            ),
            unsubscribe=f"{base}/u/{self._token(Purpose.UNSUBSCRIBE, delivery_id)}",
            pixel=f"{base}/o/{self._token(Purpose.OPEN, delivery_id)}.gif",
        )

    def message_id(self, delivery_id: int) -> str:
        """The Message-ID of a delivery, without brackets."""
        return f"{self._run_id}.{delivery_id}.{self.setting.topic_key}@{self.setting.list_domain}"

    def clock(self, now: datetime) -> Clock:
        """The clock in the organisation's time zone."""
        return clock_for(self.setting.time_zone, now)

    def link_address(self, record_json: Mapping[str, Any], number: int, marked_at: datetime) -> str | None:
        """Where link `number` of one delivery leads, or None when there is no such link."""
        record = record_from_json(record_json, self.fields)
        found = self.compiled.links(record, self.setting.context(record, self.clock(marked_at), self._language))
        return found[number] if number < len(found) else None

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
        record = record_from_json(record_json, self.fields)
        links = self.links_for(delivery_id)
        context = self.setting.context(record, self.clock(marked_at), self._language)
        rendered = self.compiled.render(record, context, links, self.setting.footer(consent_since))
        names = [record.get("first_name"), record.get("last_name")]
        envelope = Envelope(
            message_id=self.message_id(delivery_id),
            date=marked_at,
            from_name=self.setting.from_name,
            from_address=self.setting.from_address,
            to_name=" ".join(name for name in names if isinstance(name, str)),
            to_address=address,
            reply_to=self.setting.reply_to,
            list_id=f"{self.setting.topic_key}.{self.setting.list_domain}",
            unsubscribe_url=links.unsubscribe,
        )
        return Composed(rendered=rendered, raw=assemble(rendered, envelope), to_address=wire_form(address))
