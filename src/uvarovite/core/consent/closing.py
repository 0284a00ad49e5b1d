"""What was closed for an address: leaving and pausing hold for whoever has the address, not for one record alone.

Records come and go: one is deleted and brought in anew, a duplicate is merged away, an address is corrected and turns up
in the next file. So each leaving leaves a mark at the address as well, for its topic:

- Leaving that came through the mailbox closes the address for everyone who shares it. So does leaving that is recorded
  by hand for somebody who has the address alone, or where it is said to be for the address.
- Leaving recorded by hand for one of several closes their record alone. When that record is gone from the address
  (deleted, merged, corrected), the mark stays for whoever comes to the address later: `spares` is the moment until which
  the others had subscribed, and they go on getting mail.

Only the person opens it again: an answer from the mailbox, or their own word where the closing was their own.
"""

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressClosing:
    """What stands at an address for one topic. Each `spares` is None where nobody is spared; instants are aware."""

    left_at: datetime | None = None
    left_spares: datetime | None = None
    paused_until: datetime | None = None
    paused_spares: datetime | None = None

    def has_left(self, subscribed_since: datetime | None) -> bool:
        """Is somebody whose present state began at `subscribed_since` (None: never asked) closed by a leaving?"""
        return self.left_at is not None and _is_late(subscribed_since, self.left_spares)

    def pauses(self, subscribed_since: datetime | None, now: datetime) -> bool:
        """Do they pause by what was said at their address?"""
        running = self.paused_until is not None and self.paused_until > now
        return running and _is_late(subscribed_since, self.paused_spares)


def _is_late(since: datetime | None, spares: datetime | None) -> bool:
    return since is None or spares is None or since > spares


def closed_sql(what: str, row: str, since: str) -> str:
    """The same in SQL, never NULL: `what` is `left` or `paused`, `row` the alias of the address's row (NULLs where there
    is none), `since` an expression. The moment of a pause's end is compared with `:now`.
    """
    stands = f"{row}.left_at IS NOT NULL" if what == "left" else f"coalesce({row}.paused_until > :now, FALSE)"
    return f"({stands} AND ({since} IS NULL OR {row}.{what}_spares IS NULL OR {since} > {row}.{what}_spares))"
