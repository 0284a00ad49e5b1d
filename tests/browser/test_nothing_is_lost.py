"""What is typed is saved, or stands there as not saved: by two people, in two tabs, over a slow and a broken line."""

import re

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.demo.story import USERS
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.messages.messages import get_message
from uvarovite.store.database import Database, run_sql

SECOND = (USERS[1][0], USERS[1][2])


@pytest.fixture
def world(demo_museum: Installation) -> Installation:
    """The whole demo, without its mail going out."""
    demo_museum.start_web()
    return demo_museum


def stop(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stops").get_by_role("button", name=re.compile(f"^{name}")).click()


def subject(page: Page):  # type: ignore[no-untyped-def]
    return page.get_by_role("textbox", name="Subject")


def test_words_that_are_not_saved_block_the_release_and_are_saved_or_thrown_away_from_there(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns/1?stop=words")
    subject(page).fill("Two walks are left")
    # Away by the menu at once, and back: it stands there as it was left.
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Audiences").click()
    expect(page.get_by_role("heading", name="Audiences")).to_be_visible()
    page.goto(f"{world.web_url}/campaigns/1?stop=words")
    expect(subject(page)).to_have_text("Two walks are left")
    stop(page, "Release")
    checks = page.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("You changed the words and did not save them.")
    expect(page.get_by_role("button", name="Release to")).to_be_disabled()
    expect(page.get_by_role("navigation", name="Stops")).to_contain_text("changed, not saved")
    checks.get_by_role("button", name="Save them").dblclick()
    expect(page.get_by_text("version 2 of Autumn field walks")).to_be_visible()
    expect(page.get_by_text("“Two walks are left”")).to_be_visible()
    expect(page.get_by_role("button", name="Release to")).to_be_enabled()
    assert get_message(database, SYSTEM, 1).number == 2

    stop(page, "Who")
    page.get_by_label("Criteria as text").fill('town is "Skarn"')
    expect(page.get_by_text("The campaign goes by the saved audience")).to_be_visible()
    stop(page, "Release")
    expect(checks).to_contain_text("You changed the conditions and did not save them.")
    checks.get_by_role("button", name="Throw them away").click()
    expect(checks).to_contain_text("Nothing stands in the way.")
    # What was thrown away comes back at a click.
    page.get_by_role("button", name="Undo").click()
    expect(checks).to_contain_text("You changed the conditions")


def test_quick_choices_on_a_slow_line_follow_each_other(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns")
    page.get_by_label("Name of the new campaign").fill("Winter walks")
    page.get_by_role("button", name="Create").dblclick()
    expect(page.get_by_role("heading", name="Who gets it")).to_be_visible()
    assert run_count(database, "campaign") == 2
    throttle = {"offline": False, "latency": 400, "downloadThroughput": 50_000, "uploadThroughput": 20_000}
    page.context.new_cdp_session(page).send("Network.emulateNetworkConditions", throttle)
    stops = page.get_by_role("navigation", name="Stops")
    page.get_by_label("They opted in to").select_option(label="Schools")
    page.get_by_label("Audience").select_option(label="Walkers near the valley")
    page.get_by_label("If they had it before").select_option(label="they get it again")
    expect(stops).to_contain_text("saving …")
    expect(stops).to_contain_text(re.compile(r"saved \d\d:\d\d"))
    page.reload()
    expect(page.get_by_label("They opted in to")).to_have_value(re.compile(r"\d"))
    view = get_campaign(database, SYSTEM, 2, system_clock())
    assert (view.topic, view.audience, view.again) == ("Schools", "Walkers near the valley", "everybody")


def run_count(database: Database, table: str) -> int:
    with database.transaction() as tx:
        return int(run_sql(tx, f"SELECT count(*) FROM {table}")[0][0])


def test_two_people_at_the_same_message_see_each_other_and_decide_by_part(
    browser: Browser, world: Installation, database: Database
) -> None:
    mine = signed_in(browser, world)
    theirs = signed_in(browser, world, *SECOND)
    for page in (mine, theirs):
        page.goto(f"{world.web_url}/messages/1")
        expect(subject(page)).to_be_visible()
    second = mine.get_by_role("textbox", name="Words of the message").locator("p").first
    second.click()
    mine.keyboard.press("Home")
    mine.keyboard.press("Shift+End")
    mine.keyboard.type("Dear all,")
    subject(mine).fill("Mine")
    theirs.get_by_role("textbox", name="Preheader").fill("Their preheader")
    subject(theirs).fill("Theirs")
    theirs.get_by_role("button", name="Save", exact=True).click()
    expect(theirs.get_by_text("is saved as version 2")).to_be_visible()
    mine.get_by_role("button", name="Save", exact=True).click()
    both = mine.get_by_role("region", name="Changed by two")
    expect(both).to_contain_text("Tomas Brekke changed this message meanwhile.")
    expect(both).to_contain_text("Theirs")
    # Apart from the subject nobody was in the other's way.
    expect(both.get_by_role("button", name="Keep mine")).to_have_count(1)
    both.get_by_role("button", name="Both").click()
    expect(both).to_have_count(0)
    expect(subject(mine)).to_have_text("Mine Theirs")
    expect(mine.get_by_role("textbox", name="Preheader")).to_have_text("Their preheader")
    expect(second).to_have_text("Dear all,")
    mine.get_by_role("button", name="Save", exact=True).click()
    expect(mine.get_by_text("is saved as version 3")).to_be_visible()
    saved = get_message(database, SYSTEM, 1)
    assert (saved.content.subject, saved.content.preheader) == ("Mine Theirs", "Their preheader")


def test_two_tabs_of_one_person_come_together(browser: Browser, world: Installation, database: Database) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns/1?stop=pace")
    other = page.context.new_page()
    other.goto(f"{world.web_url}/campaigns/1?stop=pace")
    expect(other.get_by_label("Batch")).to_have_value("50")
    page.get_by_label("Batch").fill("40")
    stops = page.get_by_role("navigation", name="Stops")
    expect(stops).to_contain_text("saved ")
    other.get_by_label("Every").fill("30")
    expect(other.get_by_role("navigation", name="Stops")).to_contain_text("saved ")
    expect(other.get_by_label("Batch")).to_have_value("40")
    page.get_by_label("Batch").fill("20")
    other.get_by_label("Batch").fill("25")
    # Whoever came second is asked.
    asked = until(
        lambda: next((one for one in (page, other) if one.get_by_text("in another tab meanwhile").count()), None),
        "a clash to be shown",
    )
    asked.get_by_role("button", name="Keep mine").click()
    expect(asked.get_by_role("navigation", name="Stops")).to_contain_text("saved ")
    wanted = 20 if asked is page else 25
    until(lambda: get_campaign(database, SYSTEM, 1, system_clock()).pace.batch_size == wanted, "the choice to be saved")
    assert get_campaign(database, SYSTEM, 1, system_clock()).pace.gap_seconds == 30


def test_what_is_typed_outlives_a_broken_line_a_reload_and_the_end_of_the_session(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/audiences/1")
    expect(page.get_by_label("Name of the audience")).to_have_value("Walkers near the valley")
    page.route("**/api/drafts/**", lambda route: route.abort())
    page.get_by_label("Name of the audience").fill("Walkers of the valley")
    expect(page.get_by_text("the server is not reached")).to_be_visible()
    page.unroute("**/api/drafts/**")
    page.reload()
    expect(page.get_by_label("Name of the audience")).to_have_value("Walkers of the valley")
    until(lambda: run_count(database, "draft") == 1, "the draft to be on the server")
    held: list[Route] = []
    page.route("**/api/drafts/**", lambda route: held.append(route))
    with page.expect_request("**/api/drafts/**"):
        page.get_by_label("Name of the audience").fill("Walkers around the valley")
    with database.transaction() as tx:
        run_sql(tx, "DELETE FROM user_session")
    page.unroute("**/api/drafts/**")
    for route in held:
        route.continue_()
    # Whatever asks first finds out that nobody is signed in any more.
    expect(page).to_have_url(re.compile(r"/sign-in\?back="))
    again = signed_in(browser, world)
    again.goto(f"{world.web_url}/audiences/1")
    expect(again.get_by_label("Name of the audience")).to_have_value("Walkers of the valley")
    page.get_by_label("E-mail address").fill(USERS[0][0])
    page.get_by_role("textbox", name="Password").fill(USERS[0][2])
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_label("Name of the audience")).to_have_value("Walkers around the valley")
    page.keyboard.press("Control+s")
    expect(page.get_by_text("“Walkers around the valley” is saved.")).to_be_visible()
    until(lambda: run_count(database, "draft") == 0, "the draft to be forgotten")
