"""Limits and what counts against them, for groups of messages and never one by one.

A group takes permits for each of its scopes at once. Where one of them is limited, the rows of its limits are locked first,
so that two workers never count the same room twice; where none is, nobody waits for anybody.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from datetime import datetime, timedelta

from uvarovite.core.campaigns import (
    DAY_SECONDS,
    HOUR_SECONDS,
    STRETCHES,
    WINDOWS,
    Limit,
    Pace,
    Use,
    first_stretch,
    grant_permits,
    stretch_end,
    stretch_of,
)
from uvarovite.store.database import Transaction, change_sql, run_sql

# Workers that count at once write to so many rows.
_PARTS = 8


def relay_scope(relay_id: int) -> str:
    """All that goes through a relay."""
    return f"relay {relay_id}"


def run_scope(run_id: int) -> str:
    """All of a run."""
    return f"run {run_id}"


def domain_scope(run_id: int, domain: str) -> str:
    """What goes from a run to a domain."""
    return f"{run_scope(run_id)} {domain}"


def limits_of(tx: Transaction, scopes: Iterable[str]) -> dict[str, dict[int, int]]:
    """How many messages may go in each window, by scope and seconds."""
    told: dict[str, dict[int, int]] = {scope: {} for scope in scopes}
    rows = run_sql(tx, "SELECT scope, seconds, most FROM send_limit WHERE scope = ANY(:scopes)", {"scopes": list(told)})
    for row in rows:
        told[row.scope][row.seconds] = row.most
    return told


def set_limits(tx: Transaction, scope: str, limits: Mapping[int, int | None]) -> None:
    """Set the limits of a scope by seconds; None is no limit.

    Whoever marks without a limit to lock is waited for, so that what they take is seen by whoever takes under the new one.
    """
    change_sql(tx, "LOCK TABLE send_open IN SHARE MODE")
    run_sql(tx, "SELECT 1 FROM send_limit WHERE scope = :scope ORDER BY seconds FOR UPDATE", {"scope": scope})
    change_sql(tx, "DELETE FROM send_limit WHERE scope = :scope", {"scope": scope})
    kept = {seconds: most for seconds, most in limits.items() if most is not None}
    change_sql(
        tx,
        """INSERT INTO send_limit (scope, seconds, most, booked)
            SELECT :scope, *, 0 FROM unnest(CAST(:seconds AS integer[]), CAST(:most AS integer[]))""",
        {"scope": scope, "seconds": list(kept), "most": list(kept.values())},
    )


def keep_pace_limits(tx: Transaction, run_id: int, pace: Pace, day: int) -> None:
    """The limits of a run's own pace on a sending day, the first being day 0; those of its domains too."""
    set_limits(tx, run_scope(run_id), pace.limits_on(day))
    for limit in pace.domain_limits:
        set_limits(tx, domain_scope(run_id, limit.domain), {HOUR_SECONDS: limit.hourly})


def room_for(tx: Transaction, scopes: Sequence[str], wanted: int, now: datetime) -> tuple[int, datetime | None]:
    """(granted, next) by core.campaigns.permits; the limits stay locked until the transaction ends, to `open_permits`.

    What is open is locked before the limits, here and where they are set: nobody waits for each other, and nobody takes
    without a limit that is just being set.
    """
    change_sql(tx, "LOCK TABLE send_open IN ROW EXCLUSIVE MODE")
    limits = run_sql(
        tx,
        "SELECT scope, seconds, most FROM send_limit WHERE scope = ANY(:scopes) ORDER BY scope, seconds FOR UPDATE",
        {"scopes": list(scopes)},
    )
    if not limits:
        return wanted, None
    limited = sorted({row.scope for row in limits})
    under_way = run_sql(
        tx, "SELECT scope, sum(n) AS n FROM send_open WHERE scope = ANY(:scopes) GROUP BY 1", {"scopes": limited}
    )
    in_hand = {row.scope: int(row.n) for row in under_way}
    counted: dict[tuple[str, int], dict[int, int]] = {}
    for row in run_sql(
        tx,
        """SELECT scope, send_count.seconds, stretch, sum(n) AS n
            FROM unnest(CAST(:seconds AS integer[]), CAST(:firsts AS bigint[])) AS asked(seconds, first)
            JOIN send_count ON send_count.seconds = asked.seconds AND stretch >= first
            WHERE scope = ANY(:scopes) GROUP BY 1, 2, 3""",
        {"seconds": list(WINDOWS), "firsts": [first_stretch(now, one) for one in WINDOWS], "scopes": limited},
    ):
        counted.setdefault((row.scope, row.seconds), {})[row.stretch] = int(row.n)
    uses = [
        Use(
            limit=Limit(seconds=row.seconds, most=row.most),
            open=in_hand.get(row.scope, 0),
            counted=counted.get((row.scope, row.seconds), {}),
        )
        for row in limits
    ]
    return grant_permits(wanted, uses, now)


def open_permits(tx: Transaction, numbers: Mapping[str, int], lease_token: str) -> None:
    """So many messages of each scope go out now under a lease."""
    change_sql(
        tx,
        """INSERT INTO send_open AS old (lease_token, scope, n)
            SELECT :token, scope, n FROM unnest(CAST(:scopes AS text[]), CAST(:numbers AS integer[])) AS told(scope, n)
            ON CONFLICT (lease_token, scope) DO UPDATE SET n = old.n + excluded.n""",
        {"token": lease_token, "scopes": list(numbers), "numbers": list(numbers.values())},
    )


def close_permits(
    tx: Transaction, lease_token: str, *, went_out: Mapping[str, int], broken: Mapping[str, int], now: datetime
) -> None:
    """A relay has answered for some, or may have them; others are known not to have gone out, and count no more."""
    numbers = {scope: went_out.get(scope, 0) + broken.get(scope, 0) for scope in {*went_out, *broken}}
    change_sql(
        tx,
        """UPDATE send_open SET n = send_open.n - told.n
            FROM unnest(CAST(:scopes AS text[]), CAST(:numbers AS integer[])) AS told(scope, n)
            WHERE lease_token = :token AND send_open.scope = told.scope""",
        {"token": lease_token, "scopes": list(numbers), "numbers": list(numbers.values())},
    )
    _count(tx, {scope: n for scope, n in went_out.items() if n}, lease_token, now)


def raise_limit(tx: Transaction, scope: str, seconds: int, most: int) -> None:
    """A limit grows: whoever takes permits under the lower one meanwhile does no harm."""
    change_sql(
        tx,
        "UPDATE send_limit SET most = :most WHERE scope = :scope AND seconds = :seconds AND most < :most",
        {"scope": scope, "seconds": seconds, "most": most},
    )


def book(tx: Transaction, scope: str, n: int, later: datetime) -> list[datetime]:
    """When so many that find no room now may be tried: as many in each window as its limit lets through.

    `later` is when the first of a limit's permits is free again. A window and a stretch lie between two turns, since what
    went in a part of a stretch counts as all of it does.
    """
    turn = timedelta(seconds=HOUR_SECONDS) * (1 + 1 / STRETCHES)
    is_over = "booked_from IS NULL OR booked_from + ceil(booked::float / most) * CAST(:turn AS interval) <= :later"
    rows = run_sql(
        tx,
        f"""UPDATE send_limit SET booked_from = CASE WHEN {is_over} THEN :later ELSE booked_from END,
                booked = CASE WHEN {is_over} THEN 0 ELSE booked END + :n
            WHERE scope = :scope AND seconds = :seconds RETURNING booked_from, booked, most""",
        {"scope": scope, "seconds": HOUR_SECONDS, "n": n, "later": later, "turn": turn},
    )
    first, booked, most = rows[0].booked_from, rows[0].booked, rows[0].most
    return [first + (place // most) * turn for place in range(booked - n, booked)]


def end_lease(tx: Transaction, lease_token: str, now: datetime) -> None:
    """A lease is over; what was still open under it may have gone out until now."""
    left = run_sql(tx, "DELETE FROM send_open WHERE lease_token = :token RETURNING scope, n", {"token": lease_token})
    _count(tx, {row.scope: row.n for row in left if row.n > 0}, lease_token, now)


def _count(tx: Transaction, numbers: Mapping[str, int], lease_token: str, now: datetime) -> None:
    if not numbers:
        return
    change_sql(
        tx,
        """INSERT INTO send_count AS old (scope, seconds, stretch, part, n)
            SELECT scope, seconds, stretch, :part, n
            FROM unnest(CAST(:scopes AS text[]), CAST(:numbers AS integer[])) AS told(scope, n),
                unnest(CAST(:seconds AS integer[]), CAST(:stretches AS bigint[])) AS at(seconds, stretch)
            ORDER BY 1, 2
            ON CONFLICT (scope, seconds, stretch, part) DO UPDATE SET n = old.n + excluded.n""",
        {
            "scopes": list(numbers),
            "numbers": list(numbers.values()),
            "seconds": list(WINDOWS),
            "stretches": [stretch_of(now, seconds) for seconds in WINDOWS],
            "part": sum(lease_token.encode()) % _PARTS,
        },
    )


def forget_old_counts(tx: Transaction, now: datetime) -> int:
    """Remove what counts in no limit any more."""
    return sum(
        change_sql(
            tx,
            "DELETE FROM send_count WHERE seconds = :seconds AND stretch < :first",
            {"seconds": seconds, "first": first_stretch(now, seconds) - 1},
        )
        for seconds in WINDOWS
    )


def went_lately(tx: Transaction, scope: str, now: datetime) -> list[tuple[datetime, int]]:
    """What counts against the limits of a scope: (when it was counted, how many), oldest first; what is open counts now.

    What is older than an hour is told by the stretches of a day.
    """
    rows = run_sql(
        tx,
        """SELECT seconds, stretch, sum(n)::integer AS n FROM send_count
            WHERE scope = :scope AND (seconds = :hour AND stretch >= :first_hour
                OR seconds = :day AND stretch >= :first_day AND stretch < :last_day)
            GROUP BY 1, 2""",
        {
            "scope": scope,
            "hour": HOUR_SECONDS,
            "first_hour": first_stretch(now, HOUR_SECONDS),
            "day": DAY_SECONDS,
            "first_day": first_stretch(now, DAY_SECONDS),
            "last_day": stretch_of(now - timedelta(seconds=HOUR_SECONDS), DAY_SECONDS),
        },
    )
    told = sorted((min(stretch_end(row.stretch, row.seconds), now), row.n) for row in rows)
    in_hand = run_sql(
        tx, "SELECT coalesce(sum(n), 0)::integer AS n FROM send_open WHERE scope = :scope", {"scope": scope}
    )
    return [*told, (now, in_hand[0].n)]


def left_in(tx: Transaction, scopes: Sequence[str], now: datetime) -> dict[str, tuple[float, int]]:
    """(left, idle) of each scope: how many messages its limits leave it now, and minus how many are open."""
    in_hand = {
        row.scope: int(row.n)
        for row in run_sql(
            tx,
            "SELECT scope, sum(n) AS n FROM send_open WHERE scope = ANY(:scopes) GROUP BY 1",
            {"scopes": list(scopes)},
        )
    }
    return {
        scope: (
            min((most - used_in(tx, scope, seconds, now) for seconds, most in limits.items()), default=math.inf),
            -in_hand.get(scope, 0),
        )
        for scope, limits in limits_of(tx, scopes).items()
    }


def used_in(tx: Transaction, scope: str, seconds: int, now: datetime) -> int:
    """How many messages count against a limit of a scope now."""
    rows = run_sql(
        tx,
        """SELECT coalesce((SELECT sum(n) FROM send_open WHERE scope = :scope), 0)
            + coalesce((SELECT sum(n) FROM send_count WHERE scope = :scope AND seconds = :seconds AND stretch >= :first), 0)
            AS used""",
        {"scope": scope, "seconds": seconds, "first": first_stretch(now, seconds)},
    )
    return int(rows[0].used)
