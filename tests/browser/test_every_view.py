"""Every view: nothing that axe finds, in light and dark; nothing cut off when it is narrow or enlarged; keys work."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.store.database import Database

AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")

# (path, what is there when the view is)
VIEWS = [
    ("/", "Nothing at the moment."),
    ("/contacts?search=wren", "Wren"),
    ("/contacts?person=5", "with museum contacts.csv"),
    ("/contacts/import", "Drop a file here"),
    ("/contacts/sources/1", "Never fetched yet"),
    ("/contacts/sources/new", "An account that may only read"),
    ("/contacts/suppression", "Lift…"),
    ("/contacts/duplicates", "Merge into one"),
    ("/contacts/5/record", "Every entry of the ledger"),
    ("/audiences", "Walkers near the valley"),
    ("/audiences/1", "people are cleared to receive"),
    ("/messages", "two walks are still open"),
    ("/messages/1", "Send test"),
    ("/campaigns", "Autumn field walks"),
    ("/campaigns/1?stop=who", "people are cleared to receive"),
    ("/campaigns/1?stop=words", "Send test"),
    ("/campaigns/1?stop=proofs", "is here to show"),
    ("/campaigns/1?stop=pace", "If released now"),
    ("/campaigns/1?stop=rehearse", "Not rehearsed yet"),
    ("/campaigns/1?stop=release", "Nothing stands in the way."),
    ("/campaigns/1?stop=dispatch", "Not released yet"),
    ("/responses", "Whoever writes back waits here"),
    ("/set-up/account", "this browser"),
    ("/set-up/tokens", "No program comes in"),
    ("/set-up/organisation", "List domain"),
    ("/set-up/letters", "words on buttons:"),
    ("/set-up/senders", "New sender"),
    ("/set-up/signing", "its messages are not signed"),
    ("/set-up/relays", "Main relay carries the mail."),
    ("/set-up/topics", "New topic"),
    ("/set-up/fields", "New field"),
    ("/set-up/sign-up", "Page and HTML"),
    ("/set-up/users", "Tomas Brekke"),
    ("/set-up/log", "signed in from"),
]


@pytest.fixture
def world(demo_museum: Installation) -> Installation:
    """The whole demo, without its mail going out."""
    demo_museum.start_web()
    return demo_museum


# What another colour scheme can change.
OF_COLOURS = ["color-contrast", "link-in-text-block"]


def faults_by_axe(page: Page, rules: list[str] | None = None) -> list[str]:
    if page.evaluate("typeof axe") == "undefined":
        page.evaluate(AXE)
    # The letter is the author's own and stands in a frame; it is looked at by itself.
    found = page.evaluate(
        "rules => axe.run({exclude: [['iframe']]}, {resultTypes: ['violations'], ...(rules && {runOnly: rules})})",
        rules,
    )
    return [
        f"{one['id']}: {node['target']} {node.get('failureSummary', '')}"
        for one in found["violations"]
        for node in one["nodes"]
    ]


def go(page: Page, path: str) -> None:
    """To another view as a link leads there: the page stays, and its program with it."""
    page.evaluate("path => { history.pushState(null, '', path); dispatchEvent(new PopStateEvent('popstate')) }", path)


def fits(page: Page) -> bool:
    """Nothing goes over the right edge."""
    return bool(page.evaluate("document.documentElement.scrollWidth <= document.documentElement.clientWidth"))


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_and_nothing_is_cut_off(browser: Browser, world: Installation, scheme: str) -> None:
    page = signed_in(browser, world, viewport={"width": 1280, "height": 800}, color_scheme=scheme)
    page.goto(world.web_url)
    found: list[str] = []
    for path, words in VIEWS:
        page.set_viewport_size({"width": 1280, "height": 800})
        go(page, path)
        expect(page.get_by_text(words).first).to_be_visible()
        found += [f"{path} {fault}" for fault in faults_by_axe(page, None if scheme == "light" else OF_COLOURS)]
        # 1024 wide, 1280 at a zoom of 200 %, and a telephone. Colours move nothing.
        for width in (1024, 640, 390) if scheme == "light" else ():
            page.set_viewport_size({"width": width, "height": 700})
            until(lambda: fits(page), f"{path} to fit into {width} px", seconds=10)
    assert found == [], "\n".join(found)


def test_the_contact_table_and_the_lens_are_driven_by_keys(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, viewport={"width": 1280, "height": 800})
    page.goto(f"{world.web_url}/contacts")
    grid = page.get_by_role("grid", name="Contacts")
    expect(grid.get_by_role("row").nth(3)).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_label("Search contacts")).to_be_focused()
    page.keyboard.type("thwaite-gray")
    expect(page).to_have_url(re.compile("search=thwaite-gray"))
    # Until they are found, the rows from before stand there.
    expect(grid.get_by_role("row").nth(1)).to_contain_text("Thwaite-Gray")
    grid.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    panel = page.get_by_role("complementary", name="Person")
    expect(panel).to_contain_text("Thwaite-Gray")
    address = panel.get_by_role("button", name="Change E-mail address")
    first = address.inner_text()
    grid.focus()
    page.keyboard.press("ArrowDown")
    expect(address).not_to_have_text(first)
    page.keyboard.press(" ")
    page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Shift+ArrowDown")
    expect(page.get_by_role("region", name="With those who are ticked")).to_contain_text("3 ticked")
    page.keyboard.press("Escape")
    expect(page.get_by_role("region", name="With those who are ticked")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(panel).to_have_count(0)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("next and previous person")
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    expect(page.get_by_placeholder("A name, an address")).to_be_focused()
    page.keyboard.type("set-up")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Organisation")).to_be_visible()


def test_the_end_of_a_long_table_is_reached(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, viewport={"width": 1280, "height": 800})
    page.goto(f"{world.web_url}/contacts")
    grid = page.get_by_role("grid", name="Contacts")
    expect(grid.get_by_role("row").nth(3)).to_be_visible()
    # The count comes a moment after the first page.
    until(lambda: int(grid.get_attribute("aria-rowcount") or "0") > 250, "the count of all contacts")
    total = int(grid.get_attribute("aria-rowcount") or "0")

    def last_row() -> bool:
        grid.evaluate("element => element.scrollTo(0, element.scrollHeight)")
        shown = grid.locator("[aria-rowindex]").last.get_attribute("aria-rowindex")
        return shown == str(total)

    until(last_row, "the last contact")


def test_a_relay_that_is_not_there_is_told_in_set_up_and_in_the_dispatch(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world, viewport={"width": 1280, "height": 800})
    page.goto(f"{world.web_url}/set-up/relays")
    page.get_by_role("button", name="Change Main relay").click()
    page.get_by_text("Place in its pool").click()
    page.get_by_role("button", name="Save and try it").click()
    expect(page.get_by_text("Nothing listens at 127.0.0.1").first).to_be_visible()
    assert faults_by_axe(page) == []
    page.goto(f"{world.web_url}/messages/1")
    page.get_by_role("button", name="Send test").click()
    expect(page.get_by_role("main").get_by_role("alert")).to_contain_text("The test was not sent. Nothing listens")
    page.goto(f"{world.web_url}/campaigns/1?stop=release")
    page.get_by_role("button", name="Release to").click()
    page.get_by_role("button", name="Release now").click()
    world.start("worker")
    expect(page.get_by_role("main").get_by_role("status")).to_contain_text("Nobody is lost", timeout=60_000)
    page.get_by_role("button", name="Stop…").click()
    page.get_by_role("button", name="Stop for good").click()
    expect(page.get_by_role("heading", name="Stopped: 0 people got it")).to_be_visible()
    assert set(dispatch_view(database, SYSTEM, 1, system_clock()).states) == {"stopped"}
