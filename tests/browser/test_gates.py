"""What a coordinator does about gates: caps, lifting one, needing a field; parts and SQL; who came and went, by name."""

import re

from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.signing_in import signed_in
from tests.browser.test_audiences import WIDE, line, world
from tests.support.processes import Installation
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.consent import NO_EVIDENCE, ConsentEventKind
from uvarovite.services.audiences.audiences import audience_list
from uvarovite.services.audiences.clearance import people_behind
from uvarovite.services.organisation.vocabulary import vocabulary
from uvarovite.store.consent.ledger import append_for_contact
from uvarovite.store.database import Database

__all__ = ["world"]


def clearance_of(page: Page) -> Locator:
    return page.get_by_role("region", name="Clearance")


def cleared(page: Page) -> Locator:
    """The number below the gates."""
    return clearance_of(page).locator("footer b").first


def test_who_had_enough_is_held_and_a_gate_is_lifted_for_one_campaign(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/set-up/limits")
    caps = page.get_by_role("region", name="Frequency limits")
    caps.get_by_label("in 7 days").fill("5")
    caps.get_by_label("in 30 days").fill("2")
    caps.get_by_role("button", name="Save the limits").click()
    expect(caps).to_contain_text("cannot be more than that for 30 days")
    caps.get_by_label("in 7 days").fill("1")
    caps.get_by_role("button", name="Save the limits").click()
    expect(page.get_by_text("it holds for every clearance from now on")).to_be_visible()
    page.goto(f"{world.web_url}/campaigns/1?stop=release")
    page.get_by_role("button", name=re.compile(r"Release to \d+ people")).click()
    page.get_by_role("button", name="Release now").click()
    expect(page).to_have_url(re.compile("stop=dispatch"))
    page.goto(f"{world.web_url}/campaigns/1?stop=who")
    expect(cleared(page)).to_have_text("0")
    clearance_of(page).get_by_role("button", name="not contacted too recently").click()
    expect(clearance_of(page)).to_contain_text("has had as much as is allowed within 7 days")
    page.get_by_role("button", name="Lift it for this campaign").click()
    expect(clearance_of(page)).to_contain_text("lifted for this campaign: it holds nobody")
    clearance_of(page).get_by_role("button", name="not sent already").click()
    expect(clearance_of(page)).to_contain_text("got this message already")
    page.get_by_label("If they had it before").select_option(label="they get it again")
    expect(cleared(page)).not_to_have_text("0")
    clearance_of(page).get_by_role("button", name="Let it hold again: not contacted too recently").click()
    expect(cleared(page)).to_have_text("0")


def test_a_message_that_needs_a_field_goes_to_those_who_have_it(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/campaigns/1?stop=who")
    expect(cleared(page)).to_have_text(re.compile(r"^\d+$"))
    before = int(cleared(page).inner_text())
    page.goto(f"{world.web_url}/messages/1")
    page.get_by_role("combobox", name="Required fields").click()
    page.get_by_role("option", name="School", exact=True).click()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("is saved as version 2")).to_be_visible()
    page.goto(f"{world.web_url}/campaigns/1?stop=who")
    clearance_of(page).get_by_role("button", name="has what the message needs").click()
    expect(clearance_of(page)).to_contain_text("no school")
    assert int(cleared(page).inner_text()) < before


def test_an_audience_is_chosen_by_sql_and_cut_into_a_part(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/new")
    page.get_by_label("Name of the audience").fill("Pledges")
    page.get_by_role("button", name="Add condition").click()
    page.get_by_label("What it is about").select_option("by_sql")
    box = page.get_by_label("SELECT that gives contact_id")
    box.fill("SELECT contact_id FROM contacts\nWHERE plegde >= 50")
    expect(page.get_by_role("alert")).to_contain_text('in line 2: column "plegde" does not exist')
    expect(page.get_by_role("button", name="Save", exact=True)).to_be_disabled()
    page.get_by_text("One SELECT that gives").click()
    expect(page.get_by_text("pledge_currency")).to_be_visible()
    box.fill("SELECT contact_id FROM contacts\nWHERE pledge >= 50")
    expect(page.get_by_role("alert")).to_have_count(0)
    expect(line(page)).to_have_value('chosen by sql "SELECT contact_id FROM contacts\nWHERE pledge >= 50"')
    save = page.get_by_role("button", name="Save", exact=True)
    save.click()
    expect(page).to_have_url(re.compile(r"/audiences/\d+"))
    page.get_by_role("button", name="Send to only a part…").click()
    part = page.get_by_role("region", name="Which part of them")
    part.get_by_label("From number").fill("5")
    part.get_by_label("To number").fill("3")
    save.click()
    expect(page.get_by_role("main").get_by_role("alert")).to_contain_text("The last place cannot come before the first")
    part.get_by_label("To number").fill("16")
    part.get_by_label("Spread evenly over").select_option(label="Membership")
    expect(page.get_by_text("The part that you chose counts when it is saved")).to_be_visible()
    save.click()
    expect(page.get_by_text("The part that you chose counts when it is saved")).to_have_count(0)
    expect(clearance_of(page).locator("div").first).to_contain_text("12")
    page.reload()
    expect(part.get_by_label("To number")).to_have_value("16")
    part.get_by_role("button", name="Take all of them").click()
    expect(part).to_contain_text("Everyone who matches.")


def test_a_release_names_who_went_while_one_was_looking(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/campaigns/1?stop=release")
    button = page.get_by_role("button", name=re.compile(r"Release to \d+ people"))
    expect(button).to_be_enabled()
    seen = int(re.sub(r"\D", "", button.inner_text()))
    audience, topic = audience_list(database, SYSTEM)[0], vocabulary(database, SYSTEM).topics[0]
    going = people_behind(
        database,
        SYSTEM,
        text=audience.text,
        audience_id=audience.id,
        topic_id=topic.id,
        gate=None,
        after_id=0,
        now=system_clock(),
        limit=3,
    )
    with database.transaction() as tx:
        for person in going:
            append_for_contact(
                tx,
                person.id,
                topic_id=topic.id,
                kind=ConsentEventKind.WITHDRAWN,
                at=system_clock(),
                channel="by_hand",
                evidence=NO_EVIDENCE,
            )
    button.click()
    page.get_by_role("button", name="Release now").click()
    told = page.get_by_role("alert").filter(has_text="Gone since")
    expect(told).to_contain_text("Nothing was sent")
    for person in going:
        expect(told).to_contain_text(person.name)
    # What is on screen has been taken anew, and goes.
    page.get_by_role("button", name="Not yet").click()
    page.get_by_role("button", name=f"Release to {seen - len(going)} people").click()
    page.get_by_role("button", name="Release now").click()
    expect(page).to_have_url(re.compile("stop=dispatch"))
    page.goto(f"{world.web_url}/audiences/{audience.id}")
    expect(page.get_by_role("region", name="Since the last run")).to_contain_text("the same people would get it now")


def test_advice_is_accepted_by_name_and_taken_back(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns/1?stop=words")
    page.get_by_role("textbox", name="Preheader").fill("")
    page.get_by_role("button", name="Save", exact=True).first.click()
    expect(page.get_by_text(re.compile("is saved as version"))).to_be_visible()
    page.goto(f"{world.web_url}/campaigns/1?stop=release")
    checks = page.get_by_role("region", name="Checks")
    expect(checks).to_contain_text("There is no preheader")
    checks.get_by_role("button", name="Accept").click()
    expect(page.get_by_label("Why is it right as it is?")).to_be_focused()
    page.keyboard.type("The subject says it all")
    page.keyboard.press("Enter")
    expect(checks).to_contain_text("Signe Vale accepted this")
    expect(checks).to_contain_text("“The subject says it all”")
    page.reload()
    expect(checks).to_contain_text("Signe Vale accepted this")
    checks.get_by_role("button", name="Take back").click()
    expect(checks.get_by_role("button", name="Accept")).to_be_visible()
    page.get_by_role("button", name="Release to").click()
    expect(page.get_by_role("dialog")).to_contain_text("1 piece that nobody accepted")
