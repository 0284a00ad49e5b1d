"""A campaign is rehearsed, looked at and thrown away."""

import re

from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation
from uvarovite.store.database import Database, run_sql


def test_a_campaign_is_rehearsed_looked_at_and_thrown_away(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    demo_web.start("worker")
    page = signed_in(browser, demo_web, viewport={"width": 1280, "height": 800})
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=rehearse")
    expect(page.get_by_text("Not rehearsed yet")).to_be_visible()
    page.get_by_label("How the world is").select_option("full")
    expect(page.get_by_text("Many mailboxes are full")).to_be_visible()
    page.get_by_role("button", name="Rehearse", exact=True).dblclick()
    expect(page.get_by_role("heading", name=re.compile("^Rehearsed: [0-9]+ of [0-9]+ people accepted"))).to_be_visible(
        timeout=60_000
    )
    said = page.get_by_text("Nobody got anything, and nothing real was changed.")
    expect(said).to_contain_text(re.compile("In its own time it was done .*, after .*; the forecast said"))
    # Whoever was refused, and the letter of one of them as it went out there.
    page.get_by_role("button", name=re.compile("show$")).first.click()
    expect(page.get_by_text("only the refused")).to_be_visible()
    page.get_by_label("Trace").get_by_role("button", name=re.compile("refused")).first.click()
    page.get_by_role("button", name="As it was sent").click()
    expect(page.get_by_text("Byte for byte what was handed to the relay.")).to_be_visible()
    page.keyboard.press("Escape")
    # In another tab it is still open when it is thrown away here.
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("heading", name=re.compile("^Rehearsed"))).to_be_visible()
    page.get_by_role("button", name="All rehearsals").click()
    listed = page.get_by_label("Rehearsals", exact=True).get_by_role("button")
    expect(listed).to_have_count(1)
    listed.click()
    page.get_by_role("button", name="Throw it away…").click()
    page.get_by_role("button", name="Throw it away", exact=True).click()
    expect(page.get_by_text("Not rehearsed yet")).to_be_visible()
    other.reload()
    expect(other.get_by_text("This rehearsal is not there any more.")).to_be_visible()
    with database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM run")[0][0] == 0
        assert run_sql(tx, "SELECT count(*) FROM pg_namespace WHERE nspname LIKE 'rehearsal%'")[0][0] == 0
