"""Writing a message: chips by keyboard, conditions, tables over a list, inlays as text, undo; what is shown is what is saved."""

import re

import httpx
import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.browser.writing import saved, sources, subject, words
from tests.support.processes import Installation
from uvarovite.store.database import Database

# All that was written is kept on the server.
NOTHING_WAITS = "() => !Object.keys(localStorage).some((key) => key.startsWith('uvarovite draft'))"


@pytest.fixture
def page(new_message: Page) -> Page:
    """A new message, open to be written."""
    return new_message


def test_a_letter_with_chips_and_marks_is_written_by_keyboard_alone(page: Page, database: Database) -> None:
    expect(page.get_by_text("inserts a person's own data")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    subject(page).focus()
    page.keyboard.type("@first")
    expect(page.get_by_role("listbox", name="Field to insert").get_by_role("option").first).to_contain_text(
        "First name"
    )
    page.keyboard.press("Enter")
    # The fallback is missing, so it is asked for.
    expect(page.get_by_label("For who has none")).to_be_focused()
    page.keyboard.type("Hello")
    expect(page.get_by_text(re.compile("Read here:"))).to_be_visible()
    page.keyboard.press("Enter")
    page.keyboard.type(", come to mail@skarnmuseum.example")
    words(page).focus()
    page.keyboard.type("Dear ")
    page.keyboard.press("Control+b")
    page.keyboard.type("friends")
    page.keyboard.press("Control+b")
    page.keyboard.type(" of @town")
    page.keyboard.press("Enter")
    page.keyboard.press("Escape")
    page.keyboard.press("ArrowRight")
    page.keyboard.type(",")
    page.keyboard.press("Enter")
    page.keyboard.type('come on @{renews_on as date "d MMMM" else "a day"}.')
    content = saved(page, database)
    assert content.subject == '@{first_name else "Hello"}, come to mail@skarnmuseum.example'
    assert sources(content)[1] == 'come on @{renews_on as date "d MMMM" else "a day"}.'
    first = content.blocks[0]
    assert [(one.text, one.bold) for one in first.text][:2] == [("Dear ", False), ("friends", True)]  # type: ignore[union-attr]


def test_what_is_for_some_only_begins_and_ends_whatever_is_removed(page: Page, database: Database) -> None:
    subject(page).fill("Walks")
    words(page).focus()
    page.keyboard.type("Bring a guest")
    page.keyboard.press("Shift+Home")
    page.get_by_role("button", name="Only for").click()
    page.get_by_label("Value").select_option("Patron")
    expect(words(page)).to_contain_text('only for membership is "Patron"')
    page.get_by_role("button", name="Done").click()
    # Enter within is a line end: what begins in a block ends there.
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Enter")
    expect(words(page).locator("p")).to_have_count(1)
    page.keyboard.press("End")
    page.keyboard.press("Backspace")
    expect(words(page)).not_to_contain_text("only for")
    expect(words(page)).not_to_contain_text("end")
    page.keyboard.press("Control+z")
    expect(words(page)).to_contain_text("only for")
    # A whole block for some only, and others for everybody else.
    page.keyboard.press("Control+End")
    page.keyboard.press("Enter")
    page.keyboard.type("A lamp waits for you.")
    page.get_by_role("button", name="Only for").click()
    page.get_by_role("dialog").get_by_label("Criteria as text").fill("volunteer")
    page.get_by_role("dialog").get_by_role("button", name="Done").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    # What is kept meanwhile says nothing of an "else" that has no words yet; it stays.
    page.wait_for_function(NOTHING_WAITS)
    page.route("**/api/drafts/**", lambda _: None)
    with page.expect_request("**/api/drafts/**"):
        words(page).get_by_text("A lamp waits for you.").click()
        page.keyboard.press("End")
        page.keyboard.type(" Soon.")
    page.get_by_role("button", name="+ else for everybody else").click()
    rest = words(page).get_by_text("else for everybody else", exact=True)
    expect(rest).to_be_visible()
    with page.expect_response("**/api/drafts/**"):
        page.unroute("**/api/drafts/**")  # what was held goes on
    page.wait_for_function(NOTHING_WAITS)
    expect(rest).to_be_visible()
    expect(words(page)).to_be_focused()
    page.keyboard.type("Bring a lamp.")
    content = saved(page, database)
    assert sources(content) == ['@{if membership is "Patron"}B\nring a guest@{end}']
    only = content.blocks[1]
    assert only.kind == "only"
    assert only.arms[0].criteria == "volunteer"
    assert "".join(one.text for one in only.otherwise[0].text) == "Bring a lamp."  # type: ignore[union-attr]


def test_a_table_over_a_list_is_put_in_and_follows_the_person_in_the_lens(page: Page, database: Database) -> None:
    subject(page).fill("Your walks")
    words(page).focus()
    page.keyboard.type("You have booked:")
    page.get_by_role("button", name="Add below").click()
    page.get_by_role("menuitem", name="Table over a list").click()
    page.get_by_label("List", exact=True).select_option(label="Walk bookings")
    page.get_by_label("Order", exact=True).select_option(label="by Date")
    page.get_by_role("textbox", name="Title of column 1").fill("Which walk")
    page.get_by_label("For whoever has none").fill("Nothing is booked yet.")
    lens = page.get_by_role("complementary", name="Lens")
    expect(
        lens.frame_locator("iframe")
        .get_by_text("Nothing is booked yet.")
        .or_(lens.frame_locator("iframe").get_by_text("Which walk"))
    ).to_be_visible()
    content = saved(page, database)
    table = content.blocks[1]
    assert table.kind == "table"
    assert (table.listed, table.order, table.columns[0].title) == ("walk_bookings", "date", "Which walk")
    assert table.columns[0].value == f"@{{{table.variable}.walk}}"


def test_as_text_and_back_loses_nothing_and_undo_goes_over_all_of_it(page: Page, database: Database) -> None:
    subject(page).fill('@{first_name else "Hello"}, walks')
    words(page).fill('Dear @{first_name else "friend"}, @{if volunteer}thanks@{end}')
    expect(words(page)).to_have_text(re.compile("First name else friend"))
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Show inlays as text").click()
    expect(words(page)).to_have_text('Dear @{first_name else "friend"}, @{if volunteer}thanks@{end}')
    expect(subject(page)).to_have_text('@{first_name else "Hello"}, walks')
    words(page).focus()
    page.keyboard.press("Control+End")
    page.keyboard.type(" @{town}")
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Show inlays as chips").click()
    expect(words(page)).to_contain_text("Town")
    subject(page).fill("Other")
    page.get_by_label("Language", exact=True).select_option("de")
    for _ in range(2):
        page.get_by_role("button", name="Undo (Ctrl Z)").click()
    expect(subject(page)).to_have_text("First name else Hello, walks")
    expect(page.get_by_label("Language", exact=True)).to_have_value("")
    subject(page).press("Control+Shift+z")
    expect(subject(page)).to_have_text("Other")
    content = saved(page, database)
    assert sources(content) == ['Dear @{first_name else "friend"}, @{if volunteer}thanks@{end} @{town}']
    assert (content.subject, content.language) == ("Other", "")


def test_what_is_pasted_is_words_and_chips_and_nothing_else(page: Page, database: Database) -> None:
    subject(page).fill("Pasted")
    words(page).focus()
    page.evaluate(
        """() => {
            const data = new DataTransfer();
            data.setData("text/html", `<h1 onclick="x()">News</h1><script>alert(1)</script>
              <p style="color:red">Dear <b>@{first_name else "friend"}</b>, <a href="javascript:x()">no</a>
              <a href="https://skarnmuseum.example">yes</a></p><ul><li>Boots</li></ul><img src=x onerror=x()>`);
            const at = document.querySelector("[aria-label='Words of the message']");
            at.dispatchEvent(new ClipboardEvent("paste", {clipboardData: data, bubbles: true, cancelable: true}));
        }"""
    )
    expect(words(page)).to_contain_text("Boots")
    content = saved(page, database)
    assert [block.kind for block in content.blocks] == ["heading", "paragraph", "list"]
    assert sources(content) == ["News", 'Dear @{first_name else "friend"}, no yes']
    links = [one.link for one in content.blocks[1].text if one.link]  # type: ignore[union-attr]
    assert links == ["https://skarnmuseum.example"]


def test_addresses_become_links_as_they_are_typed_and_pasted(page: Page, database: Database) -> None:
    subject(page).fill("Links")
    words(page).focus()
    page.keyboard.type("Read https://skarnmuseum.example/walks, then come. All of it: https://skarnmuseum.example")
    page.keyboard.press("Enter")
    page.keyboard.type("What to bring")
    page.keyboard.press("Shift+Home")
    paste = """text => { const clip = new DataTransfer(); clip.setData('text/plain', text);
        document.activeElement.dispatchEvent(new ClipboardEvent('paste', {clipboardData: clip, bubbles: true})) }"""
    # The editor knows by then what is selected.
    expect(page.get_by_role("button", name="Link", exact=True)).to_be_enabled()
    page.evaluate(paste, "https://skarnmuseum.example/bring")
    page.keyboard.press("End")
    page.keyboard.type(" and more")
    page.keyboard.press("Enter")
    page.evaluate(paste, "Or write: https://skarnmuseum.example/write.\n\nThe end")
    first, second, third, last = saved(page, database).blocks

    def links(block: object) -> list[tuple[str, str]]:
        return [(one.text, one.link) for one in block.text if one.link]  # type: ignore[attr-defined]

    home = "https://skarnmuseum.example"
    assert links(first) == [(f"{home}/walks", f"{home}/walks"), (home, home)]
    assert links(second) == [("What to bring", f"{home}/bring")]
    assert links(third) == [(f"{home}/write", f"{home}/write")]
    assert links(last) == []


def test_blocks_are_moved_by_keyboard_and_by_their_handle(page: Page, database: Database) -> None:
    subject(page).fill("Order")
    words(page).focus()
    page.keyboard.type("One")
    page.keyboard.press("Enter")
    page.keyboard.type("Two")
    page.keyboard.press("Enter")
    page.keyboard.type("Three")
    page.keyboard.press("Alt+ArrowUp")
    page.keyboard.press("Alt+ArrowUp")
    expect(words(page).locator("p")).to_have_text(["Three", "One", "Two"])
    words(page).locator("p").nth(1).hover()
    page.get_by_role("button", name="What to do with this block: One").click()
    page.get_by_role("menuitem", name="Move down").click()
    expect(words(page).locator("p")).to_have_text(["Three", "Two", "One"])
    words(page).locator("p").nth(0).hover()
    page.get_by_role("button", name="Add below: Three").click()
    page.get_by_role("menuitem", name="Line Thin").click()
    content = saved(page, database)
    assert [block.kind for block in content.blocks] == ["paragraph", "divider", "paragraph", "paragraph"]


def test_proofs_are_ticked_off_by_keyboard_and_only_what_changes_is_read_again(
    browser: Browser, demo_web: Installation
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=proofs")
    cards = page.get_by_role("list", name="Proofs").get_by_role("button")
    stops = page.get_by_role("navigation", name="Stops")
    # They are made of everybody, in the background.
    expect(cards.first).to_be_visible(timeout=90_000)
    expect(page.get_by_text(re.compile(r"people show all \d+ ways in which \d+ letters differ"))).to_be_visible()
    many = cards.count()
    for done in range(many):
        expect(stops).to_contain_text(f"{done} of {many} found right")
        page.keyboard.press("Enter")
    expect(stops).to_contain_text(f"{many} of {many} found right")
    expect(page.get_by_text(f"All {many} are found right")).to_be_visible()
    stops.get_by_role("button", name=re.compile("^Words")).click()
    subject(page).fill("Two walks are left")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("is saved as version 2")).to_be_visible()
    expect(stops).to_contain_text("to be made anew")
    stops.get_by_role("button", name=re.compile("^Proofs")).click()
    # Another subject is another letter to everybody.
    expect(page.get_by_text(re.compile("^0 of \\d+ found right"))).to_be_visible()
    lens = page.get_by_role("complementary", name="Lens")
    cards.nth(1).click()
    expect(lens).to_contain_text("is here to show")
    lens.get_by_role("button", name="It is right").click()
    expect(stops).to_contain_text("1 of ")
    cards.nth(1).click()
    lens.get_by_role("button", name="It is not right after all").click()
    expect(stops).to_contain_text("0 of ")
    # What is not right is said at its place, and stands before the release until it is done.
    lens.frame_locator("iframe").locator("[data-part^=blocks]").first.click()
    comments = page.get_by_role("region", name="Comments")
    comments.get_by_label("A comment on the words").fill("Is this a friend of ours?")
    expect(comments.get_by_label("What it is about").locator("option:checked")).to_contain_text("Dear")
    comments.get_by_role("button", name="Comment", exact=True).dblclick()
    expect(comments.get_by_role("listitem")).to_have_count(1)
    stops.get_by_role("button", name=re.compile("^Release")).click()
    expect(page.get_by_text("1 comment on the words is open.")).to_be_visible()
    stops.get_by_role("button", name=re.compile("^Words")).click()
    comments.get_by_role("button", name=re.compile("^Dear")).click()
    expect(words(page)).to_be_focused()
    words(page).get_by_text("Dear").hover()
    page.get_by_role("button", name=re.compile("^What to do with this block: Dear")).click()
    page.get_by_role("menuitem", name="Comment on it…").click()
    expect(comments.get_by_label("A comment on the words")).to_be_focused()
    page.keyboard.type("They are, since May.")
    comments.get_by_role("button", name="Comment", exact=True).click()
    for left in (1, 0):
        comments.get_by_role("button", name="Done").first.click()
        expect(comments.get_by_role("listitem")).to_have_count(left)
    comments.get_by_role("button", name="Show 2 done").click()
    expect(comments.get_by_role("listitem")).to_have_count(2)
    stops.get_by_role("button", name=re.compile("^Release")).click()
    expect(page.get_by_role("heading", name="Release")).to_be_visible()
    expect(page.get_by_text("comment on the words is open")).to_have_count(0)
    stops.get_by_role("button", name=re.compile("^Proofs")).click()
    # All of them come as tests, which say so, and are letters to those whom they show.
    demo_web.start_rehearsal()
    many = cards.count()
    page.get_by_label(f"Send all {many} as tests").fill("rota@skarnmuseum.example")
    page.get_by_role("button", name="Send them").click()
    expect(page.get_by_text(f"All {many} were sent to rota@skarnmuseum.example")).to_be_visible()
    inbox = httpx.get(f"http://127.0.0.1:{demo_web.ports['inbox']}/messages.json").json()
    assert [(one["recipient"], one["subject"]) for one in inbox] == [
        ("rota@skarnmuseum.example", "[Test] Two walks are left")
    ] * many
