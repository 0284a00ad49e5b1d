"""The forecast of a campaign: what its pace, its relays and the other runs of those make of it."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.audiences import ClearanceTerms
from uvarovite.core.campaigns import (
    PRESETS,
    Capacity,
    Cause,
    Forecast,
    Lateness,
    Pace,
    Preset,
    Waited,
    ceiling,
    forecast_run,
    latest_start,
    waited_words,
    zone_names,
)
from uvarovite.core.expressions import SqlFragment
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.audiences.audiences import audience_sql
from uvarovite.services.audiences.clearance import take_clearance, terms_for
from uvarovite.services.campaigns.release_checks import load_parts
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import Pool
from uvarovite.store.audiences.audiences import cleared_of_domains, cleared_of_zones
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Database, Transaction
from uvarovite.store.delivery import permits
from uvarovite.store.tables import Campaign

# How many answers of the last run say how many are told to come back later.
_ANSWERS_ASKED = 2_000


@dataclass(frozen=True, slots=True, kw_only=True)
class CurvePoint:
    """`out` messages are out by the instant `at`."""

    at: datetime
    out: int


def curve_points(points: Iterable[tuple[datetime, int]], before: int = 0) -> list[CurvePoint]:
    """A curve for the screen; `before` were out already when it begins."""
    return [CurvePoint(at=at, out=before + out) for at, out in points]


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """From an instant to another."""

    begins: datetime
    ends: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitedLine:
    """What the time goes by, in words, and for how long."""

    words: str
    seconds: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SlowDomain:
    """People at a domain that has a limit of its own, and when the last of them is through."""

    domain: str
    people: int
    hourly: int
    end: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastView:
    """When how many would be out. `end` is None where that takes more than twenty years.

    `late` is the curve if as many are told to come back as in the last run through these relays, a `late_share` of them;
    `ceiling` what the relays would allow.
    """

    start: datetime
    end: datetime | None
    curve: list[CurvePoint]
    late: list[CurvePoint]
    late_end: datetime | None
    late_share: float
    ceiling: list[CurvePoint]
    closed: list[Span]
    waited: list[WaitedLine]
    domains: list[SlowDomain]


# What is not worth a line beside the rest.
_LEAST_SECONDS, _LEAST_SHARE = 60, 0.02


def waited_lines(waited: Iterable[Waited], relay: str) -> list[WaitedLine]:
    """What took most of the time, longest first."""
    told = list(waited)
    total = sum(one.seconds for one in told)
    return [
        WaitedLine(words=waited_words(one, relay), seconds=one.seconds)
        for one in told
        if one.seconds >= max(_LEAST_SECONDS, _LEAST_SHARE * total) and one.cause is not Cause.RELAY_SPEED
    ]


def forecast_view(
    forecast: Forecast,
    *,
    relay: str,
    before: int = 0,
    lateness: Lateness | None = None,
    top: Forecast | None = None,
    slow: Iterable[SlowDomain] = (),
) -> ForecastView:
    """A forecast for the screen; `before` were out already when it begins."""
    return ForecastView(
        start=forecast.start,
        end=forecast.end,
        curve=curve_points(forecast.curve, before),
        late=curve_points(forecast.late, before),
        late_end=forecast.late_end,
        late_share=lateness.share if lateness else 0.0,
        ceiling=curve_points(top.curve, before) if top else [],
        closed=[Span(begins=begins, ends=ends) for begins, ends in forecast.closed],
        waited=waited_lines(forecast.waited, relay),
        domains=list(slow),
    )


def capacity_of(tx: Transaction, pool: Pool | None, now: datetime, but_run: int | None = None) -> Capacity:
    """What a run finds in a pool now, the other runs through it counted in."""
    if pool is None:
        return Capacity()
    limits = pool.limits_now(now)
    scopes = [permits.relay_scope(one) for one in pool.carrying(now)]
    return Capacity(
        limits=limits,
        went=sorted(one for scope in scopes for one in permits.went_lately(tx, scope, now)) if limits else (),
        others=[one.moving for one in pacing.runs_of_pool(tx, pool.id) if one.id != but_run],
    )


def lateness_of(tx: Transaction, pool: Pool | None) -> Lateness | None:
    """How many were told to come back later in the last run through a pool; None where there was none."""
    share = pacing.late_share(tx, pool.id, _ANSWERS_ASKED) if pool and pool.relays else None
    if pool is None or share is None:
        return None
    return Lateness(share=share, delays_seconds=pool.relays[0].retry_delays_seconds)


def people_of_domains(tx: Transaction, pace: Pace, sql: SqlFragment | None, terms: ClearanceTerms) -> Mapping[str, int]:
    """How many of the cleared have their address at each domain that has a limit of its own."""
    if sql is None or not pace.domain_limits:
        return {}
    return cleared_of_domains(tx, sql, terms, [one.domain for one in pace.domain_limits])


def people_of_zones(tx: Transaction, pace: Pace, sql: SqlFragment | None, terms: ClearanceTerms) -> Mapping[str, int]:
    """How many of the cleared live by which clock, where that decides."""
    if sql is None or pace.zone_field is None:
        return {}
    return cleared_of_zones(tx, sql, terms, pace.zone_field, zone_names())


def campaign_forecast(
    tx: Transaction,
    pace: Pace,
    pool: Pool | None,
    cleared: int,
    start: datetime,
    now: datetime,
    *,
    domains: Mapping[str, int],
    readers: Mapping[str, int],
) -> ForecastView:
    """The forecast of a campaign that is released at `start`."""
    zone = ZoneInfo(require_organisation(tx).time_zone)
    capacity = capacity_of(tx, pool, now)
    lateness = lateness_of(tx, pool)
    forecast = forecast_run(cleared, pace, capacity, start, zone, domains=domains, readers=readers, lateness=lateness)
    slow = [
        SlowDomain(
            domain=one.domain,
            people=domains.get(one.domain, 0),
            hourly=one.hourly,
            end=forecast.domains.get(one.domain),
        )
        for one in pace.domain_limits
    ]
    return forecast_view(
        forecast,
        relay=pool.called if pool else "the relay",
        lateness=lateness,
        top=ceiling(cleared, capacity, start, zone) if capacity.limits else None,
        slow=slow,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class LastMoment:
    """The latest minute for a release; None where it is too late already."""

    latest: datetime | None


@needs(Permission.LOOK)
def last_moment(database: Database, actor: Actor, campaign_id: int, done_by: datetime, now: datetime) -> LastMoment:
    """When a release has to be at the latest to be through by `done_by`, which is told by the organisation's clock.

    Raises NotFound; BadInput without an audience.
    """
    with database.transaction() as tx:
        campaign = tx.get(Campaign, campaign_id)
        if campaign is None:
            raise NotFound("campaign")
        parts = load_parts(tx, campaign)
        if parts.criteria is None:
            raise BadInput("no_audience", "Choose an audience in Who first.")
        sql = audience_sql(tx, parts.criteria, campaign.audience_id, now)
        content = parts.version.content if parts.version else None
        terms = terms_for(tx, topic_id=campaign.topic_id, now=now, campaign=campaign, content=content)
        zone = ZoneInfo(require_organisation(tx).time_zone)
        latest = latest_start(
            take_clearance(tx, sql, terms).cleared,
            parts.pace,
            capacity_of(tx, parts.pool, now),
            now,
            zone,
            done_by=done_by.replace(tzinfo=zone) if done_by.tzinfo is None else done_by,
            domains=people_of_domains(tx, parts.pace, sql, terms),
            readers=people_of_zones(tx, parts.pace, sql, terms),
        )
        return LastMoment(latest=latest)


@needs(Permission.LOOK)
def presets(database: Database, actor: Actor) -> list[Preset]:
    """The paces that one can begin from."""
    return list(PRESETS)
