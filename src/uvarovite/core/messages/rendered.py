"""A person's message, readable: what the lens, tests to oneself and whoever looks later are shown."""

from collections.abc import Mapping
from dataclasses import dataclass

from uvarovite.core.messages.attachments import Attached


@dataclass(frozen=True, slots=True, kw_only=True)
class RenderedMessage:
    """One person's message. `addresses` are where its links lead, untracked, by link number; `attached` what goes with it."""

    subject: str
    preheader: str
    html: str
    text: str
    addresses: Mapping[int, str]
    attached: tuple[Attached, ...] = ()
