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


def closed_sql(what: str, row: str, since: str) -> str:
    """Whether somebody is closed by a leaving, or pauses, by what was said at their address, in SQL, never NULL.

    `what` is `left` or `paused`, `row` the alias of the address's row (NULLs where there
    is none), `since` an expression. The moment of a pause's end is compared with `:now`.
    """
    stands = f"{row}.left_at IS NOT NULL" if what == "left" else f"coalesce({row}.paused_until > :now, FALSE)"
    return f"({stands} AND ({since} IS NULL OR {row}.{what}_spares IS NULL OR {since} > {row}.{what}_spares))"
