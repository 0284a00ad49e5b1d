"""The forecasts of a run: as it was planned, as it is expected from now on, and what it waited for until now."""

from datetime import datetime
from zoneinfo import ZoneInfo

from uvarovite.core.campaigns import Capacity, FirstSlice, Forecast, Pace, forecast_run
from uvarovite.services.campaigns.forecasting import capacity_of
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.services.organisation.pools import load_pool
from uvarovite.store.campaigns import pacing
from uvarovite.store.database import Transaction
from uvarovite.store.delivery import counts, permits
from uvarovite.store.tables import Run


def planned_forecast(tx: Transaction, run: Run) -> Forecast:
    """As it was to go at the release, with the relay to itself."""
    capacity = Capacity(limits=_limits_meant(tx, run))
    pace = run.released_pace or run.pace
    return forecast_run(run.planned, pace, capacity, run.released_at, _zone(tx), readers=run.readers)


def expected_forecast(tx: Transaction, run: Run, moving: int, now: datetime) -> Forecast:
    """As the rest of it will go, with what counts against the limits by now."""
    pace, start = _of_the_rest(run, moving), max(now, run.next_batch_at)
    if run.slice_until is not None and not pace.first_slice:
        start = max(start, run.slice_until)
    scope = permits.run_scope(run.id or 0)
    return forecast_run(
        moving,
        pace,
        capacity_of(tx, load_pool(tx, run.pool_id), now, run.id),
        start,
        _zone(tx),
        released_at=run.released_at,
        readers=run.readers,
        domains=counts.put_off_by_domain(tx, run.id or 0) if pace.domain_limits else {},
        sent_there={
            one.domain: permits.went_lately(tx, permits.domain_scope(run.id or 0, one.domain), now)
            for one in pace.domain_limits
        },
        sent=permits.went_lately(tx, scope, now) if pace.limits or pace.ramp_up else (),
    )


def _of_the_rest(run: Run, moving: int) -> Pace:
    """The pace from now on: of the first slice only what has not gone yet."""
    first = run.pace.first_slice
    left = first.people - (run.planned - moving) if first else 0
    if first is None or run.slice_batches is None or run.slice_until is not None or left < 1:
        return run.pace.model_copy(update={"first_slice": None})
    return run.pace.model_copy(update={"first_slice": FirstSlice(**{**first.model_dump(), "people": left})})


def past_forecast(tx: Transaction, run: Run, through: int, now: datetime) -> Forecast:
    """How those who are through would have gone by the pace and the pauses: what they waited for."""
    capacity = Capacity(limits=_limits_meant(tx, run))
    pauses = pacing.pauses_of(tx, run.id or 0, now)
    return forecast_run(through, run.pace, capacity, run.released_at, _zone(tx), readers=run.readers, pauses=pauses)


def _limits_meant(tx: Transaction, run: Run) -> dict[int, int]:
    pool = load_pool(tx, run.pool_id)
    return pool.limits_meant if pool else {}


def _zone(tx: Transaction) -> ZoneInfo:
    return ZoneInfo(require_organisation(tx).time_zone)
