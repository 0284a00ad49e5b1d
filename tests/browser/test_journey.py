"""What a coordinator does, once from end to end, in a real browser."""

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Page, expect

from tests.support.processes import Installation, until
from tests.support.web import EMAIL, PASSWORD

PEOPLE = """E-mail address,First name,Last name,Membership,Town,Renews on
nia@slatepost.example,Nia,Wren,Patron,Skarn,2027-01-31
omar@slatepost.example,Omar,Quill,Friend,Skarn,2027-02-28
broken address,Pip,Garth,Friend,Skarn,2027-03-31
qi@slatepost.example,Qi,Cragg,Emperor,Skarn,2027-03-31
"""


@pytest.fixture
def page(page: Page) -> Page:
    """A page whose errors fail the test."""
    page.set_default_timeout(20_000)
    page.on("pageerror", lambda fault: pytest.fail(f"an error on the page: {fault}"))
    return page


def sign_in(page: Page, world: Installation) -> None:
    page.goto(world.web_url)
    page.get_by_label("E-mail address").fill(EMAIL)
    page.get_by_role("textbox", name="Password").fill("a wrong one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_contain_text("do not go together")
    page.get_by_role("textbox", name="Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()


def bring_people_in(page: Page, tmp_path: Path) -> None:
    file = tmp_path / "open day.csv"
    file.write_text(PEOPLE)
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Contacts").click()
    expect(page.get_by_role("grid", name="Contacts").get_by_role("row").nth(5)).to_be_visible()
    page.get_by_role("link", name="Import people").click()
    empty = tmp_path / "empty.csv"
    empty.write_text("")
    page.get_by_label("Contact file").set_input_files(empty)
    expect(page.get_by_role("main").get_by_role("alert")).to_contain_text("The file is empty")
    page.get_by_label("Contact file").set_input_files(file)
    expect(page.get_by_text("2 new", exact=True)).to_be_visible()
    expect(page.get_by_text("2 refused", exact=True)).to_be_visible()
    expect(page.get_by_text("“Emperor” is not one of Friend, Fellow, Patron")).to_be_visible()
    page.get_by_label("Topic").select_option(label="Field walks")
    write = page.get_by_role("button", name="Import 2 new and 0 changed")
    expect(write).to_be_disabled()
    page.get_by_label("How did they agree?").fill("Signed the list at the open day")
    expect(page.get_by_text("2 people will be opted in")).to_be_visible()
    write.click()
    expect(page.get_by_role("heading", name="open day.csv is in")).to_be_visible()
    page.get_by_role("link", name="See the contacts").click()
    page.get_by_label("Search contacts").fill("nia wren")
    row = page.get_by_role("row").filter(has_text="nia@slatepost.example")
    row.click()
    panel = page.get_by_role("complementary", name="Person")
    panel.locator("label").filter(has_text="Consent").click()
    expect(panel).to_contain_text("opted in")
    expect(panel).to_contain_text("Signed the list at the open day")


def make_an_audience(page: Page) -> None:
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Audiences").click()
    page.get_by_role("link", name="New audience").click()
    page.get_by_label("Name of the audience").fill("Members near Skarn")
    line = page.get_by_label("Criteria as text")
    line.fill('membership in ("Friend", "Fellow", "Patron") and town startswith "Sk"')
    expect(page.get_by_role("main").get_by_role("alert")).to_contain_text("Did you mean “starts with”?")
    expect(page.get_by_role("button", name="Save", exact=True)).to_be_disabled()
    page.get_by_role("button", name="Use it").click()
    expect(page.get_by_role("main").get_by_role("alert")).to_have_count(0)
    expect(page.get_by_label("Operator")).to_have_count(2)
    # The rows and the line are two views of one tree.
    page.get_by_role("button", name="Add condition").click()
    expect(line).to_have_value(re.compile(r'membership is "Friend"$'))
    page.get_by_role("button", name="Remove the condition on Membership").last.click()
    expect(line).to_have_value('membership in ("Friend", "Fellow", "Patron") and town starts with "Sk"')
    clearance = page.get_by_role("region", name="Clearance")
    expect(clearance).to_contain_text("opted in to Field walks")
    gate = clearance.get_by_role("button", name="opted in to Field walks")
    gate.click()
    expect(clearance).to_contain_text("never asked")
    clearance.get_by_role("button", name="Show the people").click()
    expect(clearance.get_by_role("listitem").first).to_be_visible()
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("“Members near Skarn” is saved.")).to_be_visible()


def write_a_message(page: Page, world: Installation) -> None:
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Messages").click()
    page.get_by_role("link", name="New message").click()
    page.get_by_label("Name of the message").fill("Winter walks")
    subject = page.get_by_role("textbox", name="Subject")
    subject.press_sequentially("@first")
    expect(page.get_by_role("listbox", name="Field to insert").get_by_role("option")).to_have_count(1)
    subject.press("Enter")
    page.get_by_label("For who has none").fill("Hello")
    page.keyboard.press("Enter")
    page.keyboard.type(", a walk is open")
    expect(subject).to_have_text("First name else Hello, a walk is open")
    page.get_by_role("textbox", name="Words of the message").fill(
        'Dear @{firstname else "friend"}, your membership runs until @{renews_on as date "d MMMM y" else "soon"}.'
    )
    wrong = page.get_by_role("complementary", name="What is wrong")
    expect(wrong).to_contain_text("There is no field “firstname”")
    wrong.get_by_role("button", name="Show").click()
    page.get_by_label("The inlay as text").fill('@{first_name else "friend"}')
    page.keyboard.press("Enter")
    expect(wrong).to_have_count(0)
    page.get_by_role("button", name="Add below").click()
    page.get_by_role("menuitem", name="Button A link").click()
    page.keyboard.type("Choose a walk")
    page.get_by_role("textbox", name="Address of the button").fill(
        'https://skarnmuseum.example/walks?card=@{contact_no else ""}'
    )
    lens = page.get_by_role("complementary", name="Lens")
    letter = lens.frame_locator("iframe")
    expect(letter.get_by_text("your membership runs until")).to_be_visible()
    first = lens.get_by_role("heading").first.inner_text()
    lens.get_by_role("button", name="Next person", exact=True).click()
    expect(lens).to_contain_text("2 of ")
    expect(lens.get_by_role("heading").first).not_to_have_text(first)
    page.keyboard.press("k")
    expect(lens.get_by_role("heading").first).to_have_text(first)
    # What is written survives a reload before it is saved.
    page.reload()
    expect(page.get_by_label("Name of the message")).to_have_value("Winter walks")
    lens.get_by_role("button", name="Send test").click()
    expect(lens).to_contain_text("Sent to signe.vale@skarnmuseum.example")
    assert world.captured() == [EMAIL]
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("“Winter walks” is saved as version 1.")).to_be_visible()


def set_up_and_release(page: Page) -> None:
    page.get_by_role("navigation", name="Places").get_by_role("link", name="Campaigns").click()
    page.get_by_label("Name of the new campaign").fill("Winter walks")
    page.get_by_role("button", name="Create").click()
    stops = page.get_by_role("navigation", name="Stops")
    page.get_by_label("Audience").select_option(label="Members near Skarn")
    page.get_by_label("They opted in to").select_option(label="Field walks")
    expect(stops).to_contain_text(re.compile(r"\d+ cleared of \d+"))
    stops.get_by_role("button", name=re.compile("^Release")).click()
    expect(page.get_by_role("region", name="Checks")).to_contain_text("Choose the message.")
    expect(page.get_by_role("button", name="Release to")).to_be_disabled()
    stops.get_by_role("button", name=re.compile("^Words")).click()
    page.get_by_label("Message", exact=True).select_option(label="Winter walks")
    expect(page.get_by_role("textbox", name="Subject")).to_contain_text("a walk is open")
    stops.get_by_role("button", name=re.compile("^Pace")).click()
    page.get_by_label("Batch").fill("12")
    page.get_by_label("Unit of the gap").select_option(label="seconds")
    page.get_by_label("Every").fill("2")
    expect(page.get_by_text("12 at a time, every 2 s")).to_be_visible()
    expect(page.get_by_role("heading", name=re.compile("If released now"))).to_be_visible()
    stops.get_by_role("button", name=re.compile("^Release")).click()
    expect(page.get_by_text(re.compile(r"“Winter walks” goes to \d+ people of Members near Skarn"))).to_be_visible()
    expect(page.get_by_text("Nothing stands in the way.")).to_be_visible()
    expect(page.get_by_text("Version 1 was not sent as a test")).to_have_count(0)
    expect(
        page.get_by_text(re.compile(r"Signe Vale sent .* as a test to .*: the same words as version 1"))
    ).to_be_visible()
    page.get_by_role("button", name="Release to").click()
    last = page.get_by_role("dialog")
    expect(last).to_contain_text("a walk is open")
    # Enter does not say yes.
    page.keyboard.press("Enter")
    expect(last).to_have_count(0)
    page.get_by_role("button", name="Release to").click()
    last.get_by_role("button", name="Release now").click()
    expect(page.get_by_role("heading", name=re.compile("is through"))).to_be_visible()


def watch_it_go_out(page: Page, world: Installation) -> None:
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("heading", name=re.compile("Paused at"))).to_be_visible()
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("heading", name=re.compile("^Done: "))).to_be_visible(timeout=90_000)
    expect(page.get_by_role("button", name=re.compile("250 2.0.0 Ok: queued")).first).to_be_visible()
    opened = page.get_by_role("button", name=re.compile(r"^\d+ opened"))
    expect(opened).to_be_enabled(timeout=60_000)
    expect(page.get_by_role("button", name=re.compile(r"^\d+ clicked"))).to_be_enabled(timeout=60_000)


def way_out(world: Installation, recipient: str) -> str:
    """The link to leave in somebody's message, as their mail program has it."""
    inbox = f"http://127.0.0.1:{world.ports['inbox']}"
    number = re.search(r"/m/(\d+)", httpx.get(inbox, params={"search": recipient}).text)
    assert number
    source = httpx.get(f"{inbox}/m/{number[1]}?view=source").text
    link = re.search(r"List-Unsubscribe: &lt;(http[^&]+)&gt;", source)
    assert link
    return link[1]


def somebody_leaves(page: Page, world: Installation) -> str:
    """A recipient opens the page behind the link and presses its button; the address that left."""
    assert page.context.browser is not None
    other = page.context.browser.new_context()
    visitor = other.new_page()
    for recipient in world.captured():
        if recipient == EMAIL:
            continue
        visitor.goto(way_out(world, recipient))
        # Some of the simulated people have left by themselves already.
        if visitor.get_by_role("button", name="Leave").count():
            break
    visitor.get_by_role("button", name="Leave").click()
    expect(visitor.get_by_role("heading", level=1)).to_have_text("You have left “Field walks”.")
    # It can be taken back, and is not.
    expect(visitor.get_by_role("button")).to_have_text("That was a mistake: keep “Field walks”")
    other.close()
    return recipient


def look_at_a_trace(page: Page, recipient: str) -> None:
    panel = page.get_by_role("complementary", name="Trace")
    panel.get_by_label("Find a person of this run").fill(recipient)
    # The people who are found replace those who stood there before.
    expect(panel.locator("button[aria-pressed]")).to_have_count(1)
    panel.locator("button[aria-pressed]").click()
    for words in ("opted in to Field walks", "matched: membership in", "cleared all 7 gates", "planned for batch",
                  "composed from “Winter walks”, version 1", "250 2.0.0 Ok: queued", "left the topic"):  # fmt: skip
        expect(panel).to_contain_text(words)
    panel.get_by_role("button", name="As it was sent").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Byte for byte what was handed to the relay.")
    dialog.get_by_text("Source", exact=True).click()
    expect(dialog).to_contain_text("List-Unsubscribe-Post: List-Unsubscribe=One-Click")
    page.keyboard.press("Escape")
    expect(dialog).to_have_count(0)


def the_next_run_holds_them_back(page: Page) -> None:
    stops = page.get_by_role("navigation", name="Stops")
    stops.get_by_role("button", name=re.compile("^Release")).click()
    expect(page.get_by_text("This campaign was released before")).to_be_visible()
    stops.get_by_role("button", name=re.compile("^Who")).click()
    clearance = page.get_by_role("region", name="Clearance")
    clearance.get_by_role("button", name="opted in to Field walks").click()
    expect(clearance).to_contain_text("left the topic")


def test_from_a_contact_file_to_a_message_that_one_can_leave(page: Page, world: Installation, tmp_path: Path) -> None:
    sign_in(page, world)
    bring_people_in(page, tmp_path)
    make_an_audience(page)
    write_a_message(page, world)
    set_up_and_release(page)
    watch_it_go_out(page, world)
    recipient = somebody_leaves(page, world)
    look_at_a_trace(page, recipient)
    the_next_run_holds_them_back(page)
    page.keyboard.press("Control+k")
    page.get_by_placeholder("A name, an address").fill("winter")
    expect(page.get_by_role("option", name=re.compile("Winter walks"))).to_be_visible()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/campaigns/\d+"))


def test_a_session_that_has_ended_leads_back_to_where_one_was(page: Page, world: Installation) -> None:
    page.goto(f"{world.web_url}/contacts?search=wren")
    expect(page).to_have_url(re.compile(r"/sign-in\?back="))
    page.get_by_label("E-mail address").fill(EMAIL)
    page.get_by_role("textbox", name="Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_label("Search contacts")).to_have_value("wren")
    page.get_by_role("button", name="menu of Signe Vale").click()
    page.get_by_role("menuitem", name="Sign out").click()
    expect(page.get_by_role("button", name="Sign in")).to_be_visible()
    until(lambda: httpx.get(f"{world.web_url}/api/session").status_code == 401, "the session to be over")
