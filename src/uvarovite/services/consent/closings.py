"""Whose leaving it was: what was closed for an address, in words."""

from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.consent import closings as store
from uvarovite.store.database import Transaction

_CHANNELS = {
    "link": "by the link of a message",
    "one_click": "with one click in their mail program",
    "mail": "by mail",
    "preferences": "on their preference page",
    "by_hand": "recorded by hand",
    "merge": "carried over from a merged record",
}
# The reasons of the consent gate that are about the address.
OF_ADDRESS = frozenset({"left_address", "paused_address"})


def closed_words(tx: Transaction, address_folded: str | None, topic_id: int | None, reason: str) -> str | None:
    """Who closed an address for a topic, and how and when; None where the reason is not about the address, or unknown.

    `reason` is that of the consent gate.
    """
    if reason not in OF_ADDRESS or address_folded is None or topic_id is None:
        return None
    row = store.closing_at(tx, address_folded, topic_id)
    if row is None:
        return None
    zone = ZoneInfo(require_organisation(tx).time_zone)
    if reason == "paused_address":
        return f"{row.paused_name or 'somebody who is erased by now'} pauses until {_day(row.paused_until, zone)}"
    channel = _CHANNELS.get(row.channel or "")
    return f"{row.left_name or 'somebody who is erased by now'} left on {_day(row.left_at, zone)}" + (
        f", {channel}" if channel else ""
    )


def _day(at: datetime, zone: ZoneInfo) -> str:
    return f"{at.astimezone(zone):%-d %B %Y}"
