"""Pace and dispatch: a forecast that follows, a run that brakes, goes on slower, and whoever may not have got it."""

import re

from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation
from tests.support.relays import DROP, Script, relay_aside
from uvarovite.store.database import Database, run_sql

SCREEN = {"width": 1280, "height": 800}


def set_relay(database: Database, port: int) -> None:
    """The museum's relay is another one, with no limit of its own."""
    with database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET port = :port, connections = 1, revision = revision + 1", {"port": port})
        run_sql(tx, "DELETE FROM send_limit")


def saved(page: Page) -> None:
    expect(page.get_by_text(re.compile("^saved "))).to_be_visible()


def test_a_pace_moves_the_forecast_and_one_works_backwards_from_a_time(
    browser: Browser, demo_web: Installation
) -> None:
    page = signed_in(browser, demo_web, viewport=SCREEN)
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=pace")
    forecast = page.get_by_role("region", name="Forecast")
    expect(forecast.get_by_role("heading")).to_contain_text("If released now: done at")
    page.get_by_role("button", name="Gentle").click()
    expect(page.get_by_role("button", name="Gentle")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_label("Batch")).to_have_value("20")
    expect(forecast).to_contain_text("the wait after the first slice (30 min)")
    before = forecast.get_by_role("heading").inner_text()
    page.get_by_label("Hours to spread it over").fill("2")
    page.get_by_role("button", name="Evenly over").click()
    expect(page.get_by_label("Batch")).to_have_value("1")
    expect(forecast.get_by_role("heading")).to_contain_text(re.compile(r"\(1 h 5\d min|\(2 h"))
    # The curve is drawn out with the mouse, or with keys.
    spread = forecast.get_by_role("heading").inner_text()
    slider = page.get_by_role("slider", name="Spread it evenly over this time")
    slider.press("ArrowRight")
    slider.press("ArrowRight")
    expect(forecast.get_by_role("heading")).not_to_have_text(spread)
    page.get_by_role("button", name="Back to what it was").click()
    expect(page.get_by_role("button", name="Gentle")).to_have_attribute("aria-pressed", "true")
    # A smaller batch takes longer; what is on screen is what is saved.
    page.get_by_label("Batch").fill("5")
    expect(forecast.get_by_role("heading")).not_to_have_text(before)
    page.get_by_role("button", name="Saturday").click()
    page.get_by_role("button", name="Sunday").click()
    page.get_by_label("Between").fill("09:00")
    page.get_by_label("and, by the organisation’s clock").fill("08:00")
    expect(page.get_by_text("It must close later than it opens.")).to_be_visible()
    page.get_by_label("and, by the organisation’s clock").fill("17:30")
    expect(page.get_by_text("Monday to Friday, 9:00 to 17:30")).to_be_visible()
    page.get_by_label("Domain with a limit of its own").fill("@QuartzMail.example")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.get_by_label("At most an hour to quartzmail.example")).to_have_value("100")
    page.get_by_label("It must be done by").fill("2031-03-07T12:00")
    expect(forecast.get_by_role("status")).to_contain_text("release at the latest")
    page.get_by_label("It must be done by").fill("2020-03-06T12:00")
    expect(forecast.get_by_role("status")).to_contain_text("too soon")
    saved(page)
    page.reload()
    expect(page.get_by_label("Batch")).to_have_value("5")
    expect(page.get_by_role("button", name="Saturday")).to_have_attribute("aria-pressed", "false")
    expect(page.get_by_label("At most an hour to quartzmail.example")).to_be_visible()


def test_a_run_brakes_goes_on_slower_and_the_unknown_are_decided(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    script = Script(replies={"RCPT": "554 5.7.1 We do not know you"})
    with relay_aside(script) as port:
        set_relay(database, port)
        demo_web.start("worker")
        page = signed_in(browser, demo_web, viewport=SCREEN)
        page.goto(f"{demo_web.web_url}/campaigns/1?stop=pace")
        page.get_by_label("Batch").fill("5")
        page.get_by_label("Every").fill("0")
        page.get_by_label("Pause by itself when too much comes back").check()
        page.get_by_label("Answers that the brake looks at").fill("50")
        saved(page)
        page.get_by_role("navigation", name="Stops").get_by_role("button", name=re.compile("^Release")).click()
        page.get_by_role("button", name=re.compile("^Release to")).click()
        page.get_by_role("button", name="Release now").click()
        # Five of fifty are ten percent.
        expect(page.get_by_text("It paused by itself.")).to_be_visible()
        expect(page.get_by_text("the brake is at 10 % of 50")).to_be_visible()
        script.replies = {".": DROP}
        page.get_by_role("button", name="Slower").click()
        expect(page.get_by_role("button", name="Slower")).to_be_enabled()
        page.get_by_role("button", name="Go on").click()
        # The messages are taken, and the relay says nothing more: nobody knows.
        expect(page.get_by_text(re.compile("the connection broke before the answer")).first).to_be_visible()
        script.replies = {}
        page.get_by_role("button", name="Stop…").click()
        page.get_by_role("button", name="Stop for good").click()
        expect(page.get_by_role("heading", name="Who did not get it")).to_be_visible()
        unknown = page.locator("div", has_text=re.compile("may or may not have got it")).last
        unknown.get_by_role("button", name=re.compile("again…$")).click()
        unknown.get_by_role("button", name=re.compile("every gate is asked again")).click()
        expect(page.get_by_label("Run", exact=True).locator("option:checked")).to_have_text("Run 2")
        expect(page.get_by_role("heading", name=re.compile("^Done: "))).to_be_visible()
        page.close()
