"""The forecast on the run sheet: what it knows of people, of the relay, of other runs and of the last one."""

from datetime import datetime, timedelta

import pytest

from tests.support.museum import NOW, Museum, make_museum
from tests.support.sending import LATER, OK, claim, kit_of, mark, send_all, settle
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.audiences import Again
from uvarovite.core.campaigns import DAY_SECONDS, HOUR_SECONDS, MINUTE_SECONDS, DomainLimit, Pace
from uvarovite.services.campaigns.forecasting import ForecastView, last_moment, presets
from uvarovite.services.campaigns.gauges import PoolGauges
from uvarovite.services.delivery import dispatch
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.database import Database
from uvarovite.store.delivery import permits

HOURLY = Pace(batch_size=1, gap_seconds=3_600)


def limit(museum: Museum, **limits: int) -> None:
    seconds = {"minute": MINUTE_SECONDS, "hour": HOUR_SECONDS, "day": DAY_SECONDS}
    with museum.database.transaction() as tx:
        scope = permits.relay_scope(museum.relay_id)
        permits.set_limits(tx, scope, {seconds[name]: most for name, most in limits.items()})


def forecast_of(museum: Museum, now: datetime = NOW) -> ForecastView:
    forecast = museum.view(now).forecast
    assert forecast is not None
    return forecast


def gauges_of(museum: Museum, now: datetime = NOW) -> PoolGauges:
    gauges = museum.view(now).gauges
    assert gauges is not None
    return gauges


def near(moment: datetime | None, wanted: timedelta) -> bool:
    """Is it so long after NOW, within two seconds?"""
    return moment is not None and abs(moment - NOW - wanted) <= timedelta(seconds=2)


def test_it_ends_later_for_each_message_that_went_out_before(museum: Museum) -> None:
    limit(museum, hour=4)
    museum.change(pace=Pace(batch_size=50, gap_seconds=0))
    # Five people, four of whom may go at once.
    assert near(forecast_of(museum).end, timedelta(hours=1))
    first = museum.release()
    batch = claim(museum, "a")
    assert batch is not None
    group = mark(museum, batch, kit_of(museum, first))
    assert len(group.marked) == 4
    settle(museum, batch, kit_of(museum, first), group.marked, OK)
    [gauge] = gauges_of(museum).relays[0].limits
    assert (gauge.seconds, gauge.most, gauge.used, gauge.held) == (HOUR_SECONDS, 4, 4, 0)
    dispatch.stop(museum.database, SYSTEM, first, NOW)
    # Whoever got it is held; the one who is left waits until the hour is over.
    forecast = forecast_of(museum)
    assert forecast.end is not None
    assert timedelta(hours=1) <= forecast.end - NOW <= timedelta(hours=1, minutes=2)
    assert [line.words for line in forecast.waited] == ["the hourly limit of Main relay"]


def test_people_of_a_limited_domain_are_counted_among_the_cleared(database: Database) -> None:
    people = "Contact no.,E-mail address\n" + "".join(
        f"P-{n},p{n}@{'quartzmail' if n < 6 else 'slatepost'}.example\n" for n in range(10)
    )
    museum = make_museum(database, people=people)
    limit(museum)
    museum.change(pace=Pace(domain_limits=(DomainLimit(domain="quartzmail.example", hourly=2),)))
    [slow] = forecast_of(museum).domains
    assert (slow.domain, slow.people, slow.hourly) == ("quartzmail.example", 6, 2)
    assert near(slow.end, timedelta(hours=2))
    assert near(forecast_of(museum).end, timedelta(hours=2))


def test_those_told_to_come_back_last_time_are_expected_again(museum: Museum) -> None:
    limit(museum)
    assert forecast_of(museum).late == []
    first = museum.release()
    send_all(museum, first, answer_to=lambda number: LATER if number == 1 else OK)
    dispatch.stop(museum.database, SYSTEM, first, NOW)
    museum.change(again=Again.EVERYBODY, name="Again")
    forecast = forecast_of(museum)
    assert forecast.late_share == pytest.approx(0.4)
    assert forecast.late[-1].out == 5
    assert forecast.late_end is not None
    assert forecast.end is not None
    assert forecast.late_end > forecast.end


def test_the_ceiling_is_what_the_relay_would_allow(museum: Museum) -> None:
    limit(museum, hour=4)
    museum.change(pace=HOURLY)
    forecast = forecast_of(museum)
    assert near(forecast.end, timedelta(hours=4))
    assert near(forecast.ceiling[-1].at, timedelta(hours=1))
    limit(museum)
    assert forecast_of(museum).ceiling == []


def test_another_run_of_the_relay_is_named_and_counted_in(museum: Museum) -> None:
    limit(museum, hour=4)
    museum.change(pace=Pace(batch_size=50, gap_seconds=0))
    run_id = museum.release()
    gauges = gauges_of(museum)
    assert [(holder.campaign, holder.moving) for holder in gauges.holders] == [("Walks", 5)]
    assert [(one.used, one.held) for one in gauges.relays[0].limits] == [(0, 4)]
    # Paused, it holds nothing.
    dispatch.pause(museum.database, SYSTEM, run_id, NOW)
    assert gauges_of(museum).holders == []


def test_one_works_backwards_by_the_organisations_clock(museum: Museum) -> None:
    limit(museum)
    museum.change(pace=HOURLY)

    def latest(done_by: str) -> datetime | None:
        wanted = datetime.fromisoformat(done_by)
        return last_moment(museum.database, SYSTEM, museum.campaign_id, wanted, NOW).latest

    # Four hours and a message: in summer a clock that shows 12 is an hour ahead of UTC.
    assert latest("2027-06-01T12:00") == datetime.fromisoformat("2027-06-01T06:59:00+00:00")
    assert latest("2027-06-01T12:00:00+00:00") == datetime.fromisoformat("2027-06-01T07:59:00+00:00")
    assert latest("2026-11-23T12:00") is None
    assert latest("2020-01-01T00:00") is None
    with pytest.raises(NotFound):
        last_moment(museum.database, SYSTEM, 99, NOW, NOW)
    museum.change(audience_id=None)
    with pytest.raises(BadInput):
        latest("2027-06-01T12:00")


def test_each_pace_to_begin_from_can_be_taken(museum: Museum) -> None:
    for preset in presets(museum.database, SYSTEM):
        museum.change(pace=preset.pace)
        assert forecast_of(museum).end is not None, preset.key
