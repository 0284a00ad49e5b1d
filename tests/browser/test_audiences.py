"""The audience builder in a real browser: by keyboard, by text, both at once; examples; people picked by hand."""

import re

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation

WIDE = {"viewport": {"width": 1280, "height": 800}}


@pytest.fixture
def world(demo_museum: Installation) -> Installation:
    """The demo's museum with 300 people."""
    demo_museum.start_web()
    return demo_museum


def line(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Criteria as text")


def options(page: Page) -> Locator:
    return page.get_by_role("listbox", name="What can stand here").get_by_role("option")


def test_a_nested_audience_is_written_with_the_help_of_completion(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/new")
    page.get_by_label("Name of the audience").fill("Bookings ahead")
    box = line(page)
    box.fill("")
    box.press_sequentially("any walk_b")
    expect(options(page)).to_have_count(1)
    expect(options(page).first).to_contain_text("walk_bookings")
    box.press("Tab")
    expect(box).to_have_value("any walk_bookings ")
    box.press_sequentially('(places >= 1 and date after today) and (town starts with "Sk" or town is "Mar')
    # Real values: the towns that are there.
    expect(options(page).first).to_contain_text('"Marlby"')
    box.press("ArrowDown")
    box.press("ArrowUp")
    box.press("Enter")
    box.press_sequentially(") and never opened")
    box.press("Escape")
    expect(page.get_by_text(re.compile(r"\d of \d+ match$"))).to_be_visible()
    rows = page.get_by_label("What it is about")
    expect(rows).to_have_count(6)
    expect(rows.nth(5)).to_have_value("history")
    expect(page.get_by_label("How the list is asked about")).to_have_value("any")
    # The rows edit the same tree: the text follows, and what stands in it is kept.
    page.get_by_label("What happened").select_option("never clicked")
    page.get_by_label("How the day is given").select_option("after")
    expect(box).to_have_value(
        "any walk_bookings (places >= 1 and date after today + 30 days) "
        'and (town starts with "Sk" or town is "Marlby") and never clicked'
    )
    examples = page.get_by_role("region", name="Examples")
    expect(examples).to_contain_text("Just outside")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("“Bookings ahead” is saved.")).to_be_visible()

    compare = page.get_by_role("region", name="Compared with another audience")
    compare.get_by_label("Compare with").select_option(label="Walkers near the valley")
    expect(compare.get_by_role("status")).to_contain_text("only in Walkers near the valley")
    # Another audience can be asked about; itself it cannot be.
    box = line(page)
    box.fill('in audience "Bookings ahead"')
    circle = page.get_by_role("alert").filter(has_text="An audience cannot be in itself")
    expect(circle).to_be_visible()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    box.fill('in audience "Walkers near the valley" and tagged "lamp own')
    expect(options(page)).to_have_count(1)
    box.press("Tab")
    expect(box).to_have_value('in audience "Walkers near the valley" and tagged "lamp owner" ')
    expect(circle).to_be_hidden()


def test_a_nested_audience_is_built_by_keyboard_alone(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/new")
    page.get_by_label("Name of the audience").press_sequentially("By keys")
    page.get_by_role("button", name="Add condition").press("Enter")
    row = page.get_by_label("What it is about")
    expect(row).to_have_count(1)
    # A select is chosen from by the first letters of what is wanted.
    row.press_sequentially("Adopted")
    way = page.get_by_label("How the list is asked about")
    expect(way).to_have_value("count")
    way.press_sequentially("has any")
    expect(line(page)).to_have_value('any adopted_specimens (name is "")')
    page.get_by_role("textbox", name="Value").press_sequentially("fluorite")
    page.get_by_role("button", name="Add group").first.press("Enter")
    expect(line(page)).to_have_value('any adopted_specimens (name is "fluorite") and membership is "Friend"')
    page.get_by_role("button", name="Add condition").last.press("Enter")
    page.get_by_label("How the conditions are joined").last.press_sequentially("n")
    expect(line(page)).to_have_value(
        'any adopted_specimens (name is "fluorite") and not (membership is "Friend" or membership is "Friend")'
    )
    page.keyboard.press("Control+s")
    expect(page.get_by_text("“By keys” is saved.")).to_be_visible()
    expect(line(page)).to_have_value(
        'any adopted_specimens (name is "fluorite") and not (membership is "Friend" or membership is "Friend")'
    )


def test_people_are_picked_by_hand_and_held_by_a_gate_of_their_own(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/1")
    clearance = page.get_by_role("region", name="Clearance")
    clearance.get_by_role("button", name="Show who is cleared").click()
    first = clearance.get_by_role("list", name="Who is cleared").get_by_role("listitem").first
    name = first.get_by_role("link").inner_text()
    first.get_by_role("button", name="Leave out").click()
    picked = page.get_by_role("region", name="Picked by hand")
    expect(picked).to_contain_text("Left out by hand:")
    expect(picked.get_by_role("link", name=name, exact=True)).to_be_visible()
    expect(clearance.get_by_role("button", name="not left out by hand 1 held")).to_be_visible()
    clearance.get_by_role("button", name="not left out by hand 1 held").click()
    expect(clearance).to_contain_text("Without this gate 1 more would be cleared.")
    picked.get_by_role("button", name=f"Let the conditions decide about {name}").click()
    expect(clearance.get_by_role("button", name="not left out by hand")).to_be_hidden()
    picked.get_by_label("Pick people by hand").fill("wren")
    picked.get_by_role("button", name="Add ").first.click()
    expect(picked).to_contain_text("Added by hand:")


def test_why_not_is_answered_beside_the_clearance(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/1")
    why = page.get_by_role("region", name="Why not?")
    why.get_by_label("Why does somebody get it, or not?").fill("nobody@slatepost.example")
    why.get_by_role("button", name="Why?").click()
    expect(why).to_contain_text("Nobody among the contacts has this address.")
    why.get_by_label("Why does somebody get it, or not?").fill("not an address")
    why.get_by_role("button", name="Why?").click()
    expect(why.get_by_role("alert")).to_be_visible()
    people = page.request.get(f"{world.web_url}/api/contacts?search=&criteria=membership is blank&limit=5").json()
    address = next(row["address"] for row in people["rows"] if row["address"])
    why.get_by_label("Why does somebody get it, or not?").fill(address)
    why.get_by_role("button", name="Why?").press("Enter")
    expect(why).to_contain_text('does not match: membership in ("Friend", "Fellow", "Patron") (theirs: blank)')


def test_an_audience_is_frozen_and_follows_its_conditions_again(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/audiences/1")
    part = page.get_by_role("region", name="Frozen or not")
    part.get_by_role("button", name="Freeze today's people").click()
    expect(part).to_contain_text("The conditions would choose the same people now.")
    people = page.request.get(f'{world.web_url}/api/contacts?search=&criteria=membership is "Patron"&limit=1').json()
    token = page.request.get(f"{world.web_url}/api/session").json()["csrf_token"]
    gone = page.request.put(
        f"{world.web_url}/api/contacts/{people['rows'][0]['id']}/values/membership",
        data={"before": "Patron", "text": ""},
        headers={"X-Uvarovite-CSRF": token},
    )
    assert gone.ok
    page.reload()
    expect(part).to_contain_text("−1 (")
    line(page).fill("everyone")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("The audience is frozen.")).to_be_visible()
    part.get_by_role("button", name="Follow the conditions again").click()
    expect(part).to_contain_text("Updates by itself")
