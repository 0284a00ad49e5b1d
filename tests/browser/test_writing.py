"""Writing a message: chips by keyboard, conditions, tables over a list, inlays as text, undo; what is shown is what is saved."""

import re
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from tests.browser.test_every_view import signed_in
from tests.core.test_from_files import LETTER, word_file
from tests.support.processes import Installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import AttachedFile, CalendarEntry
from uvarovite.services.messages.messages import get_message
from uvarovite.store.database import Database


@pytest.fixture
def world(demo_museum: Installation) -> Installation:
    """The whole demo, without its mail going out."""
    demo_museum.start_web()
    return demo_museum


@pytest.fixture
def page(browser: Browser, world: Installation) -> Page:
    """A new message, with a name, open to be written."""
    page = signed_in(browser, world)
    page.on("pageerror", lambda fault: pytest.fail(f"an error on the page: {fault}"))
    page.goto(f"{world.web_url}/messages/new")
    page.get_by_label("Name of the message").fill("Spring walks")
    return page


def words(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Words of the message")


def subject(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Subject")


def saved(page: Page, database: Database) -> MessageContent:
    """The words as they are saved now."""
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text(re.compile("is saved as version"))).to_be_visible()
    expect(page).to_have_url(re.compile(r"/messages/\d+$"))
    return get_message(database, SYSTEM, int(page.url.rsplit("/", 1)[1])).content


def sources(content: MessageContent) -> list[str]:
    """The text of each block of words."""
    return ["".join(one.text for one in block.text) for block in content.blocks if hasattr(block, "text")]


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
    page.wait_for_function("() => !Object.keys(localStorage).some((key) => key.startsWith('uvarovite draft'))")
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
    browser: Browser, world: Installation
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns/1?stop=proofs")
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
    # All of them come as tests, which say so, and are letters to those whom they show.
    world.start_rehearsal()
    many = cards.count()
    page.get_by_label(f"Send all {many} as tests").fill("rota@skarnmuseum.example")
    page.get_by_role("button", name="Send them").click()
    expect(page.get_by_text(f"All {many} were sent to rota@skarnmuseum.example")).to_be_visible()
    inbox = httpx.get(f"http://127.0.0.1:{world.ports['inbox']}/messages.json").json()
    assert [(one["recipient"], one["subject"]) for one in inbox] == [
        ("rota@skarnmuseum.example", "[Test] Two walks are left")
    ] * many


def test_a_starter_is_begun_with_words_are_replaced_and_an_earlier_version_comes_back(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/messages")
    page.get_by_role("button", name="Begin with a starter").click()
    page.get_by_role("button", name="Begin a message with Invitation to a walk").click()
    expect(page.get_by_label("Name of the message")).to_have_value("Invitation to a walk 2")
    expect(words(page)).to_contain_text("A packed lunch")
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Find and replace").click()
    page.get_by_label("Find", exact=True).fill("lamp")
    page.get_by_label("Replace by").fill("lantern")
    expect(page.get_by_role("status").filter(has_text="found once")).to_be_visible()
    page.get_by_role("button", name="Replace all").click()
    expect(words(page)).to_contain_text("A lantern")
    assert "lantern" in repr(saved(page, database).blocks)
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Versions").click()
    expect(page.get_by_role("dialog")).to_contain_text("lamplantern")
    page.get_by_role("button", name="Take version 1 into the editor").click()
    expect(words(page)).to_contain_text("A lamp")
    # Undo goes over that, too.
    page.get_by_role("button", name="Undo (Ctrl Z)").click()
    expect(words(page)).to_contain_text("A lantern")
    # What is put away comes back at a click.
    page.goto(f"{world.web_url}/messages")
    cards = page.get_by_role("list", name="Messages").get_by_role("listitem")
    expect(cards).to_have_count(2)
    page.get_by_role("button", name="What to do with Invitation to a walk 2").click()
    page.get_by_role("menuitem", name="Put away").click()
    expect(cards).to_have_count(1)
    page.get_by_role("button", name="Undo").click()
    expect(cards).to_have_count(2)
    page.get_by_label("Search messages").fill("autumn")
    expect(cards).to_have_count(1)


def test_html_and_a_word_file_become_messages_and_what_was_left_out_is_told(
    browser: Browser, world: Installation, database: Database, tmp_path: Path
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/messages")
    letter, word = tmp_path / "spring letter.html", tmp_path / "school.docx"
    letter.write_text(LETTER)
    word.write_bytes(word_file())
    page.get_by_role("button", name="From a file").click()
    dialog = page.get_by_role("dialog")
    picture = tmp_path / "a picture.html"
    picture.write_bytes(b"\x89PNG\x00\x00")
    page.locator("input[type=file]").set_input_files(picture)
    expect(dialog).to_contain_text("This is no HTML, Word, Markdown, text or mail file.")
    page.locator("input[type=file]").set_input_files(letter)
    expect(dialog).to_contain_text(
        "Left out: 1 script; 2 forms or inputs; 2 style sheets with their fonts and colours; 1 frame"
    )
    expect(dialog.get_by_label("Name of the message")).to_have_value("spring letter")
    dialog.get_by_role("button", name="Make a message of it").click()
    expect(words(page)).to_contain_text("come along to the Scree Path")
    expect(words(page)).to_contain_text("First name")
    expect(subject(page)).to_have_text("Two walks")
    page.goto(f"{world.web_url}/messages")
    page.get_by_role("button", name="From a file").click()
    page.locator("input[type=file]").set_input_files(word)
    dialog.get_by_role("button", name="Make a message of it").click()
    expect(words(page)).to_contain_text("Come along")
    subject(page).fill("To schools")
    assert sources(saved(page, database))[-1] == "Come along"


def test_each_reader_gets_the_words_in_their_language_and_what_lags_is_seen(
    browser: Browser, world: Installation, database: Database
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/campaigns/1?stop=words")
    lens = page.get_by_role("complementary", name="Lens")
    page.get_by_role("button", name="Add a language").click()
    page.get_by_role("menuitem", name="German").click()
    # The lens goes along to somebody who reads it.
    expect(lens).to_contain_text("gets the words in German")
    subject(page).fill("Zwei Wege sind noch frei")
    expect(lens).to_contain_text("Zwei Wege sind noch frei")
    expect(page.get_by_role("complementary", name="The main words")).to_contain_text("two of our autumn walks")
    page.get_by_role("tab", name="English · main").click()
    expect(lens).not_to_contain_text("gets the words in German")
    subject(page).fill("Three walks")
    german = page.get_by_role("tab", name="German")
    expect(german).to_contain_text("1 behind")
    german.click()
    expect(subject(page)).to_have_text("Zwei Wege sind noch frei")
    page.get_by_role("button", name="These words follow the main ones now").click()
    expect(german).not_to_contain_text("behind")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("is saved as version 2")).to_be_visible()
    content = get_message(database, SYSTEM, 1).content
    assert (content.subject, content.others[0].language, content.others[0].subject) == (
        "Three walks",
        "de",
        "Zwei Wege sind noch frei",
    )
    assert content.others[0].basis is not None
    assert content.others[0].basis.subject == "Three walks"


def test_files_and_calendar_entries_go_with_a_message(page: Page, database: Database) -> None:
    subject(page).fill("The plan")
    words(page).fill("Here is the plan.")
    attachments = page.get_by_role("region", name="Attachments")
    chooser = attachments.locator("input[type=file]")
    chooser.set_input_files({"name": "plan.pdf", "mimeType": "application/pdf", "buffer": b"MZ"})
    expect(attachments.get_by_role("alert")).to_contain_text("it holds something else")
    pdf = b"%PDF-1.7\n" + b"plan " * 400
    # What is written while it is on its way stays, and it is there as soon as it has come, whatever else is slow.
    held: list[Route] = []
    page.route("**/api/attachments", lambda route: held.append(route))
    chooser.set_input_files({"name": "plan.pdf", "mimeType": "application/pdf", "buffer": pdf})
    expect(attachments.get_by_role("button", name="Attach a file")).to_be_disabled()
    words(page).focus()
    page.keyboard.press("Control+End")
    page.keyboard.type(" Come early.")
    held[0].continue_()
    name = attachments.get_by_role("textbox", name="What the file is called")
    expect(name).to_have_text("plan")
    page.unroute("**/api/attachments")  # what was held goes on
    expect(attachments.get_by_role("link", name="2 KB")).to_be_visible()
    expect(attachments.get_by_role("alert")).to_have_count(0)
    name.fill("Walks")
    attachments.get_by_role("button", name="Calendar entry").click()
    expect(page.get_by_text("Say what the entry in the calendar is called.").first).to_be_visible()
    attachments.get_by_role("textbox", name="Title of the entry").focus()
    page.keyboard.type("Walk for @first")
    page.keyboard.press("Enter")
    page.keyboard.type("you")
    page.keyboard.press("Enter")
    attachments.get_by_label("Day of the entry").fill("2027-03-28")
    attachments.get_by_label("Time of the entry").fill("09:30")
    attached = page.get_by_role("complementary", name="Lens").get_by_role("list", name="Attached")
    expect(attached).to_contain_text("Walks.pdf")
    expect(attached).to_contain_text("invitation.ics")
    # It is undone like any words, and done again.
    attachments.get_by_role("button", name="Remove").first.click()
    expect(attached).not_to_contain_text("Walks.pdf")
    page.get_by_role("button", name="Undo (Ctrl Z)").click()
    expect(attached).to_contain_text("Walks.pdf")
    content = saved(page, database)
    assert sources(content) == ["Here is the plan. Come early."]
    file, entry = content.attachments
    assert isinstance(file, AttachedFile)
    assert isinstance(entry, CalendarEntry)
    assert file.name == "Walks"
    assert (entry.title, entry.day, entry.time) == ('Walk for @{first_name else "you"}', "2027-03-28", "09:30")
    page.reload()
    expect(attachments.get_by_role("textbox", name="What the file is called")).to_have_text("Walks")
    with page.expect_download() as download:
        attachments.get_by_role("link", name="2 KB").click()
    assert Path(download.value.path()).read_bytes() == pdf


def test_the_lens_leads_to_the_words_shows_the_source_and_finds_who_reads_a_fallback(
    browser: Browser, world: Installation
) -> None:
    page = signed_in(browser, world)
    page.goto(f"{world.web_url}/messages/1")
    lens = page.get_by_role("complementary", name="Lens")
    letter = lens.frame_locator("iframe")
    pledge = letter.locator("[data-field=pledge]")
    expect(pledge).to_have_attribute("title", re.compile(r"pledge: [\d.]+ EUR"))
    pledge.click()
    # The chip is chosen, and says what can be done with it.
    expect(page.get_by_label("The inlay as text")).to_have_value("@{pledge as money}")
    page.keyboard.press("Escape")
    lens.get_by_role("button", name="Next person who reads a fallback").click()
    expect(letter.locator(".inlay.fallback")).not_to_have_count(0)
    lens.get_by_text("Source", exact=True).click()
    expect(lens.locator("pre")).to_contain_text("MIME-Version: 1.0")
    expect(lens.locator("pre")).to_contain_text("Content-Transfer-Encoding: quoted-printable")
    lens.get_by_role("button", name="Save this letter as").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="a mail").click()
    assert b"MIME-Version: 1.0" in Path(download.value.path()).read_bytes()
    assert download.value.suggested_filename == "letter.eml"
    with page.expect_download() as download:
        page.get_by_role("button", name="More", exact=True).click()
        page.get_by_role("menuitem", name="Save the saved version as a file").click()
    kept = Path(download.value.path())
    assert download.value.suggested_filename == "Autumn field walks.json"
    page.goto(f"{world.web_url}/messages")
    page.get_by_role("button", name="From a file").click()
    page.locator("input[type=file]").set_input_files(
        {"name": "Winter walks.json", "mimeType": "application/json", "buffer": kept.read_bytes()}
    )
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Name of the message")).to_have_value("Winter walks")
