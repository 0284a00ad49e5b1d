"""Contacts in a real browser: a messy file and its undo, a person edited by two, many at once, fields and the list."""

import re
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation
from uvarovite.demo.shop import SHOP_FILE, make_shop

WIDE = {"viewport": {"width": 1280, "height": 800}}
MESSY = """E-Mail;Vorname;Nachname;Pledge;Joined;Tags;Shoe size
ottoline@slatepost.example;Ottoline;Harkness;"900,00";03/04/2026;walker;41
"piotr@quartzmail.example";Piotr;Źródłowski;"1.250,50";05/06/2026;"walker, caver";38
no address at all;Pip;Garth;"30,00";01/02/2026;;39
rosa@fjordnet.example;Rosa;Lowick;many;01/02/2026;;37
"""


@pytest.fixture
def world(demo_museum: Installation, tmp_path: Path) -> Installation:
    """The demo's museum with 300 people."""
    make_shop(tmp_path / "sources")
    demo_museum.start_web()
    return demo_museum


def grid_of(page: Page, world: Installation, search: str = "") -> Locator:
    page.goto(f"{world.web_url}/contacts{search}")
    grid = page.get_by_role("grid", name="Contacts")
    expect(grid.get_by_role("row").nth(1)).to_be_visible()
    return grid


def bar(page: Page) -> Locator:
    return page.get_by_role("region", name="With those who are ticked")


def test_a_messy_file_is_matched_brought_in_and_undone(browser: Browser, world: Installation, tmp_path: Path) -> None:
    page = signed_in(browser, world, **WIDE)
    file = tmp_path / "open day.csv"
    file.write_text(MESSY, encoding="windows-1250")
    page.goto(f"{world.web_url}/contacts/import")
    page.get_by_label("Contact file").set_input_files(file)
    expect(page.get_by_text("This file is not written in UTF-8")).to_be_visible()
    page.get_by_label("Encoding").select_option("windows-1250")
    expect(page.get_by_label("Columns are divided by")).to_have_value(";")
    shown = page.get_by_role("region", name="What it would do")
    expect(shown).to_contain_text("no address at all")
    # A column that fits no field becomes one; what has two readings is asked.
    page.get_by_label("What becomes of Shoe size").select_option("new")
    page.get_by_role("dialog").get_by_role("button", name="Create the field").click()
    expect(page.get_by_label("What becomes of Shoe size")).to_have_value("field shoe_size")
    page.get_by_label("What becomes of Joined").select_option(label="Renews on")
    expect(page.get_by_text("its values have two readings")).to_be_visible()
    page.get_by_label("03/04/2026 is").select_option("dmy")
    shown.get_by_text("2 new", exact=True).click()
    expect(shown).to_contain_text("Źródłowski")
    expect(shown).to_contain_text("3 Apr 2026")
    page.get_by_label("Topic").select_option(label="Field walks")
    page.get_by_label("How did they agree?").fill("Signed the list at the open day")
    expect(page.get_by_text("2 people will be opted in")).to_be_visible()
    page.get_by_role("button", name="Import 2 new and 0 changed").click()
    expect(page.get_by_role("heading", name="open day.csv is in")).to_be_visible()
    with page.expect_download() as refused:
        page.get_by_role("link", name="Save the 2 refused rows").click()
    assert "no address at all" in Path(refused.value.path()).read_text(encoding="utf-8-sig")
    page.get_by_role("button", name="Undo…").click()
    page.get_by_role("button", name="Yes, undo this import").click()
    expect(page.get_by_text("Taken back: 2 people removed")).to_be_visible()
    page.goto(f"{world.web_url}/contacts?search=piotr@quartzmail")
    expect(page.get_by_text("Nobody is found")).to_be_visible()
    # The next file with these columns is matched as this one was.
    page.goto(f"{world.web_url}/contacts/import")
    page.get_by_label("Or paste cells").fill(MESSY.replace(";", "\t"))
    page.get_by_role("button", name="Preview these cells").click()
    expect(page.get_by_text("as last time").first).to_be_visible()
    expect(page.get_by_label("What becomes of Shoe size")).to_have_value("field shoe_size")


def test_a_person_is_edited_where_they_stand_and_two_editors_lose_nothing(
    browser: Browser, world: Installation
) -> None:
    pages = [signed_in(browser, world, **WIDE) for _ in range(2)]
    panels = []
    for page in pages:
        grid_of(page, world, "?search=x.2@").get_by_role("row").nth(1).click()
        panels.append(page.get_by_role("complementary", name="Person"))
        panels[-1].get_by_role("button", name="Change Town").click()
        panels[-1].get_by_label("Town", exact=True).fill(f"Marlby {len(panels)}")
    mine, theirs = panels
    mine.get_by_role("button", name="Save", exact=True).click()
    expect(mine.get_by_role("button", name="Change Town Marlby 1")).to_be_visible()
    theirs.get_by_role("button", name="Save", exact=True).click()
    expect(theirs.get_by_role("alert")).to_contain_text("Nothing was overwritten")
    expect(theirs.get_by_role("alert")).to_contain_text("Theirs: Marlby 1")
    expect(theirs.get_by_label("Town", exact=True)).to_have_value("Marlby 2")
    theirs.get_by_role("button", name="Keep mine").click()
    theirs.get_by_role("button", name="Save", exact=True).click()
    expect(theirs.get_by_role("button", name="Change Town Marlby 2")).to_be_visible()
    theirs.get_by_role("button", name="Change Pledge").click()
    theirs.get_by_label("Pledge", exact=True).fill("a lot")
    pages[1].keyboard.press("Enter")
    expect(theirs.get_by_role("alert")).to_contain_text("is not an amount")
    pages[1].keyboard.press("Escape")
    theirs.get_by_role("button", name="Change Adopted specimens").click()
    theirs.get_by_role("textbox", name="Name", exact=True).fill("Uvarovite; the big one")
    theirs.get_by_role("button", name="Save", exact=True).click()
    expect(theirs).to_contain_text("Uvarovite; the big one")
    theirs.get_by_label("New note").fill("Met at the gate")
    theirs.get_by_role("button", name="Save the note").click()
    expect(theirs).to_contain_text("Met at the gate")
    theirs.locator("label").filter(has_text="History").click()
    expect(theirs).to_contain_text("Town: Marlby 1 → Marlby 2")
    expect(theirs).to_contain_text("by Signe Vale")


def test_what_a_person_said_goes_into_the_ledger_and_onto_their_page(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    grid_of(page, world, "?search=x.2@").get_by_role("row").nth(1).click()
    panel = page.get_by_role("complementary", name="Person")
    panel.locator("label").filter(has_text="Consent").click()
    panel.get_by_role("button", name="Record for Schools").click()
    enter = panel.get_by_role("button", name="Save")
    expect(enter).to_be_disabled()
    panel.get_by_label("How, and in which words").fill("By telephone: yes, please")
    enter.click()
    expect(panel.get_by_role("region", name="Ledger")).to_contain_text("By telephone: yes, please")
    expect(panel.get_by_role("region", name="Topics")).to_contain_text("opted in")
    panel.get_by_role("button", name="Never write to this person…").click()
    panel.get_by_label("Reason").fill("moved abroad")
    panel.get_by_role("button", name="Suppress", exact=True).click()
    expect(panel.get_by_role("status")).to_contain_text("moved abroad")
    panel.get_by_role("link", name="One page for a data request").click()
    sheet = page.get_by_role("article")
    expect(sheet).to_contain_text("By telephone: yes, please")
    page.get_by_label("As of").fill("2020-01-01")
    expect(sheet.get_by_role("row").filter(has_text="Schools").first).to_contain_text("never asked")
    with page.expect_download() as told:
        page.get_by_role("link", name="JSON").click()
    assert "yes, please" not in Path(told.value.path()).read_text()
    page.go_back()
    expect(sheet).to_contain_text("By telephone: yes, please")
    with page.expect_download() as told:
        page.get_by_role("link", name="JSON").click()
    assert "yes, please" in Path(told.value.path()).read_text()


def test_many_are_ticked_tagged_taken_out_deleted_and_brought_back(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    grid = grid_of(page, world)
    rows = grid.get_by_role("row")
    rows.nth(2).get_by_role("checkbox").click()
    rows.nth(5).get_by_role("checkbox").click(modifiers=["Shift"])
    expect(bar(page)).to_contain_text("4 ticked")
    bar(page).get_by_role("button", name="Tag…").click()
    page.get_by_role("dialog").get_by_label("Tag", exact=True).fill("lantern walk")
    page.get_by_role("dialog").get_by_role("button", name="Tag 4 people").click()
    expect(page.get_by_text("Tagged “lantern walk”: 4 people.")).to_be_visible()
    expect(grid.get_by_text("lantern walk")).to_have_count(4)
    page.get_by_role("button", name="Undo", exact=True).click()
    expect(grid.get_by_text("lantern walk")).to_have_count(0)
    # All that match is something else than all that are loaded.
    page.get_by_label("Criteria").fill('membership is "Patron"')
    expect(page).to_have_url(re.compile("criteria="))
    expect(page.get_by_role("heading", name="Contacts").locator("..")).to_contain_text(
        re.compile(r"^Contacts\d+ of \d+ people")
    )
    rows.nth(1).get_by_role("checkbox").click()
    bar(page).get_by_role("button", name=re.compile(r"Tick all \d+ that match")).click()
    expect(bar(page)).to_contain_text("all that match")
    bar(page).get_by_role("button", name="Export").click()
    with page.expect_download() as taken:
        page.get_by_role("menuitem", name="As CSV").click()
    lines = Path(taken.value.path()).read_text(encoding="utf-8-sig").splitlines()
    told = re.search(r"(\d+) ticked", bar(page).inner_text())
    assert told is not None
    assert len(lines) == int(told[1]) + 1
    bar(page).get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Delete…").click()
    page.get_by_role("dialog").get_by_role("button", name=re.compile("^Delete")).click()
    expect(page.get_by_text("Nobody is found")).to_be_visible()
    # The notice goes; the undo stays.
    page.reload()
    expect(page.get_by_text("Nobody is found")).to_be_visible()
    page.get_by_role("button", name="Recent changes").click()
    page.get_by_role("button", name="Undo: Deleted").click()
    expect(rows.nth(1)).to_contain_text("Patron")


def test_the_erased_are_gone_for_good_after_a_number_was_typed(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    grid = grid_of(page, world, "?search=x.2@")
    grid.get_by_role("row").nth(1).get_by_role("checkbox").click()
    bar(page).get_by_role("button", name="More").click()
    page.get_by_role("menuitem", name="Erase for good…").click()
    button = page.get_by_role("dialog").get_by_role("button", name="Erase 1 person")
    expect(button).to_be_disabled()
    page.get_by_label("Type 1 to confirm").fill("1")
    button.click()
    expect(page.get_by_text("1 person erased for good.")).to_be_visible()
    page.goto(f"{world.web_url}/contacts/suppression")
    expect(page.get_by_text("an erased address")).to_be_visible()


def test_columns_orders_and_views_are_chosen_and_kept(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    grid = grid_of(page, world)
    page.get_by_role("button", name="Columns").click()
    page.get_by_role("checkbox", name="Renews on").check()
    page.get_by_role("checkbox", name="Topics").uncheck()
    page.keyboard.press("Escape")
    grid.get_by_role("button", name="Renews on").click()
    expect(grid.get_by_role("columnheader", name="Renews on")).to_have_attribute("aria-sort", "ascending")
    edge = grid.get_by_role("separator", name="Width of Renews on")
    before = int(edge.get_attribute("aria-valuenow") or "0")
    edge.focus()
    page.keyboard.press("ArrowRight")
    expect(edge).to_have_attribute("aria-valuenow", str(before + 20))
    page.get_by_label("Criteria").fill('membership is "Friend"')
    expect(page).to_have_url(re.compile("criteria="))
    page.get_by_role("button", name="Save view").click()
    page.get_by_label("Name of a new view").fill("Friends by renewal")
    page.get_by_role("button", name="Save as new").click()
    expect(page.get_by_text("is saved for everybody")).to_be_visible()
    address = page.url
    other = signed_in(browser, world, **WIDE)
    other.goto(address)
    theirs = other.get_by_role("grid", name="Contacts")
    expect(theirs.get_by_role("columnheader", name="Renews on")).to_be_visible()
    expect(theirs.get_by_role("columnheader", name="Topics")).to_have_count(0)
    other.get_by_label("View").select_option(label="All contacts")
    expect(other).not_to_have_url(re.compile("criteria="))


def test_two_with_one_address_are_merged_side_by_side(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/contacts/duplicates")
    group = page.get_by_role("region", name=re.compile("^Merge ")).first
    expect(group).to_contain_text("merged into the other")
    address = group.get_by_role("columnheader").first.inner_text()
    second = group.get_by_role("row", name=re.compile("^First name")).get_by_role("button").nth(1)
    name = second.inner_text().strip()
    second.click()
    expect(second).to_contain_text("✓")
    group.get_by_role("button", name="Merge into one").click()
    expect(page.get_by_role("region", name=f"Merge {address}")).to_have_count(0)
    rows = grid_of(page, world, f"?search={address}").get_by_role("row")
    expect(rows).to_have_count(2)
    expect(rows.nth(1)).to_contain_text(name)


def test_a_double_click_opens_what_it_opens_and_answers_no_question(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/contacts/import")
    page.get_by_role("button", name="Undo…").first.dblclick()
    page.get_by_role("button", name="Not yet").click()
    expect(page.get_by_role("button", name="Not yet")).to_have_count(0)
    expect(page.get_by_text("undone", exact=True)).to_have_count(0)
    page.goto(f"{world.web_url}/set-up/topics")
    page.get_by_role("button", name="New topic").dblclick()
    page.keyboard.type("Winter walks")
    expect(page.get_by_role("dialog").get_by_label("Name")).to_have_value("Winter walks")


def test_a_field_is_retyped_only_after_its_losses_were_seen(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/set-up/fields")
    page.get_by_role("button", name="Change Visits last year").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Type").select_option("yes_no")
    dialog.get_by_role("button", name="Change the field").click()
    expect(dialog.get_by_role("status")).to_contain_text("Nothing is changed yet")
    dialog.get_by_role("button", name="Cancel").click()
    page.get_by_role("button", name="Remove School", exact=True).click()
    expect(page.get_by_text("it can be brought back below")).to_be_visible()
    page.get_by_role("button", name="Bring School back", exact=True).click()
    expect(page.get_by_role("button", name="Remove School", exact=True)).to_be_visible()
    page.get_by_role("link", name="Topics").click()
    page.get_by_role("button", name="New topic").click()
    dialog.get_by_label("Name").fill("Open days")
    dialog.get_by_role("button", name="Save the topic").click()
    expect(page.get_by_role("region", name="Topics")).to_contain_text("open_days")


def test_a_live_source_is_set_up_pulled_and_pulled_again(browser: Browser, world: Installation, tmp_path: Path) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/contacts/import")
    page.get_by_role("link", name="New live source").click()
    page.get_by_label("What to call it").fill("Till")
    page.get_by_text("A SELECT of your own").click()
    select = page.get_by_role("textbox", name="SELECT", exact=True)
    select.fill("DELETE FROM customer")
    page.get_by_role("button", name="Look at its rows").click()
    expect(page.get_by_text("It has to begin with SELECT")).to_be_visible()
    select.fill("SELECT email, first_name, town FROM customer WHERE email LIKE 'till.%'")
    page.get_by_role("button", name="Look at its rows").click()
    expect(page.get_by_role("status").filter(has_text="90 rows")).to_be_visible()
    expect(page.get_by_role("cell", name="till.2@tinmail.example")).to_be_visible()
    page.get_by_label("Tag for people no longer in the source").fill("left the till")
    page.get_by_role("button", name="Save the live source").click()
    expect(page.get_by_role("heading", name="Till", level=1)).to_be_visible()

    page.get_by_role("button", name="Fetch now and preview").click()
    page.get_by_role("button", name="Import 90 new and 0 changed").click()
    expect(page.get_by_role("heading", name="Till is in")).to_be_visible()
    with closing(sqlite3.connect(tmp_path / "sources" / SHOP_FILE)) as shop:
        shop.execute("DELETE FROM customer WHERE id = 2")
        shop.execute("UPDATE customer SET town = 'Breccia' WHERE id = 4")
        shop.commit()
    page.get_by_role("link", name="See the live source").click()
    expect(page.get_by_text("90 rows; fetched for the first time")).to_be_visible()
    page.get_by_role("button", name="Fetch now and preview").click()
    expect(page.get_by_text("0 new, 1 changed, 1 gone from the source")).to_be_visible()
    # What is being looked at stands in the address, so that it survives a reload.
    page.reload()
    expect(page.get_by_text("0 new, 1 changed, 1 gone from the source")).to_be_visible()
    page.get_by_role("button", name="Import 0 new and 1 changed").click()
    expect(page.get_by_role("heading", name="Till is in")).to_be_visible()
    grid = grid_of(page, world, "?search=till.2%40tinmail")
    expect(grid.get_by_role("row").nth(1)).to_contain_text("left the till")


def test_those_who_are_ticked_go_to_a_colleague_as_a_table(browser: Browser, world: Installation) -> None:
    world.start_rehearsal()
    page = signed_in(browser, world, **WIDE)
    grid = grid_of(page, world)
    grid.get_by_role("row").nth(1).get_by_role("checkbox").click()
    grid.get_by_role("row").nth(3).get_by_role("checkbox").click(modifiers=["Shift"])
    bar(page).get_by_role("button", name="Export").click()
    page.get_by_role("menuitem", name="Send to a colleague").click()
    dialog = page.get_by_role("dialog", name="Send to a colleague: 3 people")
    dialog.get_by_label("To", exact=True).select_option(label="Another address…")
    dialog.get_by_label("Address").fill("rota@skarnmuseum.example")
    dialog.get_by_role("button", name="Send 3 people").click()
    expect(page.get_by_text("Sent to rota@skarnmuseum.example.")).to_be_visible()
    expect(dialog).to_be_hidden()
    assert world.captured() == ["rota@skarnmuseum.example"]
    page.get_by_role("button", name="Recent changes").click()
    expect(page.get_by_text("3 people to rota@skarnmuseum.example")).to_be_visible()


def test_a_domain_is_looked_up_again_beside_the_person(browser: Browser, world: Installation) -> None:
    world.start_rehearsal()
    page = signed_in(browser, world, **WIDE)
    grid = grid_of(page, world, "?search=quartzmial")
    grid.get_by_role("row").nth(1).click()
    panel = page.get_by_role("complementary", name="Person")
    expect(panel.get_by_text("quartzmial.example is not checked yet")).to_be_visible()
    panel.get_by_role("button", name="Look it up").click()
    expect(panel.get_by_text("cannot take mail: there is no such domain")).to_be_visible()


def test_criteria_can_be_written_on_after_they_were_looked_for(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    grid_of(page, world)
    box = page.get_by_role("textbox", name="Criteria", exact=True)
    box.press_sequentially("volunteer ")
    # It is looked for while the blank behind it stands already.
    expect(page).to_have_url(re.compile(r"criteria=volunteer$"))
    expect(box).to_have_value("volunteer ")
    box.press_sequentially('and town is "Skarn"')
    expect(page).to_have_url(re.compile("Skarn"))
    expect(box).to_have_value('volunteer and town is "Skarn"')
