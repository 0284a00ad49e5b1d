"""Messages as a whole: starters and versions, files, languages, attachments, shared blocks, and what the lens shows of them."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, Route, expect
from pypdf import PdfReader

from tests.browser.signing_in import signed_in
from tests.browser.writing import saved, sources, subject, words
from tests.core.test_from_files import LETTER, word_file
from tests.support.processes import Installation, until
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Html, Shared
from uvarovite.core.messages.attachments import AttachedFile, CalendarEntry, MessagePdf, OwnFiles
from uvarovite.services.messages.messages import get_message
from uvarovite.store.database import Database, run_sql


@pytest.fixture
def page(new_message: Page) -> Page:
    """A new message, open to be written."""
    return new_message


def test_a_starter_is_begun_with_words_are_replaced_and_an_earlier_version_comes_back(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages")
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
    page.goto(f"{demo_web.web_url}/messages")
    cards = page.get_by_role("list", name="Messages").get_by_role("listitem")
    expect(cards).to_have_count(4)
    page.get_by_role("button", name="What to do with Invitation to a walk 2").click()
    page.get_by_role("menuitem", name="Put away").click()
    expect(cards).to_have_count(3)
    page.get_by_role("button", name="Undo").click()
    expect(cards).to_have_count(4)
    page.get_by_label("Search messages").fill("autumn")
    expect(cards).to_have_count(1)


def test_html_and_a_word_file_become_messages_and_what_was_left_out_is_told(
    browser: Browser, demo_web: Installation, database: Database, tmp_path: Path
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages")
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
    page.goto(f"{demo_web.web_url}/messages")
    page.get_by_role("button", name="From a file").click()
    page.locator("input[type=file]").set_input_files(word)
    dialog.get_by_role("button", name="Make a message of it").click()
    expect(words(page)).to_contain_text("Come along")
    subject(page).fill("To schools")
    assert sources(saved(page, database))[-1] == "Come along"


def test_each_reader_gets_the_words_in_their_language_and_what_lags_is_seen(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=words")
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
    attachments.get_by_role("button", name="A message as PDF").click()
    attachments.get_by_role("textbox", name="What the PDF is called").fill("Letter")
    expect(attached).to_contain_text("Letter.pdf")
    content = saved(page, database)
    assert sources(content) == ["Here is the plan. Come early."]
    file, entry, letter = content.attachments
    assert isinstance(letter, MessagePdf)
    assert (letter.message_id, letter.name) == (None, "Letter")
    assert isinstance(file, AttachedFile)
    assert isinstance(entry, CalendarEntry)
    assert file.name == "Walks"
    assert (entry.title, entry.day, entry.time) == ('Walk for @{first_name else "you"}', "2027-03-28", "09:30")
    page.reload()
    expect(attachments.get_by_role("textbox", name="What the file is called")).to_have_text("Walks")
    with page.expect_download() as download:
        attachments.get_by_role("link", name="2 KB").click()
    assert Path(download.value.path()).read_bytes() == pdf
    page.get_by_role("button", name="Save this letter as …").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="a PDF (.pdf)").click()
    (sheet,) = PdfReader(download.value.path()).pages
    assert "Here is the plan. Come early." in sheet.extract_text()


def test_the_lens_leads_to_the_words_shows_the_source_and_finds_who_reads_a_fallback(
    browser: Browser, demo_web: Installation
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages/1")
    lens = page.get_by_role("complementary", name="Lens")
    letter = lens.frame_locator("iframe")
    pledge = letter.locator("[data-field=pledge]")
    expect(pledge).to_have_attribute("title", re.compile(r"pledge: [\d.]+ EUR"))
    pledge.click()
    # The chip is chosen, and says what can be done with it.
    expect(page.get_by_label("The inlay as text")).to_have_value("@{pledge as money}")
    page.get_by_label("The inlay as text").press("Escape")
    expect(page.get_by_label("The inlay as text")).to_be_hidden()
    # And back: what is made of the chip at the caret stands out, in sight, however far the words are scrolled.
    expect(letter.locator("[data-here]")).to_have_attribute("data-field", "pledge")
    # For 50 ms after it got the caret back the editor takes no notice of where the browser puts it, and it always reads that
    # a moment late: its kind of words says that it has.
    heading = page.get_by_role("button", name="Kind of words: Heading")

    def at_the_start() -> bool:
        words(page).press("Control+Home")
        return heading.is_visible()

    until(at_the_start, "the caret in the heading")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("button", name="Kind of words: Text")).to_be_visible()
    page.keyboard.press("End")
    page.keyboard.press("ArrowLeft")
    expect(letter.locator("[data-here]")).to_have_attribute("data-field", "first_name")
    expect(letter.locator("[data-here]")).to_be_in_viewport()
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
    page.goto(f"{demo_web.web_url}/messages")
    page.get_by_role("button", name="From a file").click()
    page.locator("input[type=file]").set_input_files(
        {"name": "Winter walks.json", "mimeType": "application/json", "buffer": kept.read_bytes()}
    )
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_label("Name of the message")).to_have_value("Winter walks")


def test_blocks_are_shared_stand_in_another_message_and_are_changed_in_one_place(
    page: Page, database: Database, demo_web: Installation
) -> None:
    subject(page).fill("Walks")
    words(page).focus()
    page.keyboard.type("Come along.")
    page.keyboard.press("Enter")
    page.keyboard.type("Open till five.")
    words(page).get_by_text("Open till five.").hover()
    page.get_by_role("button", name="What to do with this block: Open till five.").click()
    page.get_by_role("menuitem", name="Share with other messages…").click()
    dialog = page.get_by_role("dialog", name="Share with other messages")
    expect(dialog.get_by_label("What it is called")).to_have_value("Open till five.")
    dialog.get_by_label("What it is called").fill("Opening hours")
    dialog.get_by_role("button", name="Share").dblclick()
    shared = words(page).get_by_role("group", name="Shared block Opening hours")
    expect(shared).to_contain_text("Open till five.")
    first = saved(page, database)
    assert sources(first) == ["Come along."]
    assert isinstance(first.blocks[1], Shared)
    # It is undone as any change, also once the new message is saved, and done again.
    page.get_by_role("button", name="Undo (Ctrl Z)").click()
    expect(shared).to_have_count(0)
    page.get_by_role("button", name="Redo (Ctrl Shift Z)").click()
    expect(shared).to_be_visible()
    # Another message gets it from the list of what can be added.
    page.goto(f"{demo_web.web_url}/messages/new")
    page.get_by_label("Name of the message").fill("Summer walks")
    subject(page).fill("Summer")
    page.get_by_role("button", name="Add below", exact=True).click()
    page.get_by_role("menuitem", name="Opening hours").click()
    expect(shared).to_contain_text("Open till five.")
    saved(page, database)
    shared.get_by_role("link", name="Change it for all").click()
    expect(page.get_by_text("Once it is saved, Spring walks, Summer walks will say the same.")).to_be_visible()
    expect(subject(page)).to_be_hidden()
    words(page).get_by_text("Open till five.").click()
    page.keyboard.press("End")
    page.keyboard.type(" Closed on Mondays.")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text("“Opening hours” is saved as version 2.")).to_be_visible()
    page.goto(f"{demo_web.web_url}/messages")
    page.get_by_text(re.compile(r"^Shared blocks \d+$")).click()
    card = page.get_by_role("listitem").filter(has_text="Opening hours")
    expect(card).to_contain_text("used in Spring walks, Summer walks")
    page.get_by_text(re.compile(r"^Messages \d+$")).click()
    page.get_by_role("link", name=re.compile("Summer walks")).click()
    expect(shared).to_contain_text("Open till five. Closed on Mondays.")
    lens = page.get_by_role("complementary", name="Lens").frame_locator("iframe")
    expect(lens.get_by_text("Open till five. Closed on Mondays.")).to_be_visible()
    shared.get_by_role("button", name="Make the words this message’s own").click()
    expect(shared).to_have_count(0)
    assert sources(saved(page, database)) == ["Open till five. Closed on Mondays."]


def test_a_test_goes_to_several_who_are_kept_as_a_list(page: Page, database: Database, demo_web: Installation) -> None:
    demo_web.start_rehearsal()
    subject(page).fill("Walks")
    words(page).fill("Come along.")
    lens = page.get_by_role("complementary", name="Lens")
    to = lens.get_by_label("Send this letter as a test to")
    to.fill("board@readers.example; shop@readers.example board@readers.example")
    lens.get_by_role("button", name="To…").click()
    page.get_by_role("menuitem", name="Keep these as a list…").click()
    lens.get_by_label("Name of the list").fill("Board and shop")
    page.keyboard.press("Enter")
    expect(page.get_by_text("“Board and shop” is a list of tests now.")).to_be_visible()
    to.fill("")
    expect(lens.get_by_role("button", name="Send test")).to_be_disabled()
    lens.get_by_role("button", name="To…").click()
    page.get_by_role("menuitem", name="Board and shop 2").click()
    expect(to).to_have_value("board@readers.example, shop@readers.example")
    lens.get_by_role("button", name="Send test").dblclick()
    expect(lens.get_by_text("All 2 were sent.")).to_be_visible()
    with database.transaction() as tx:
        sent = run_sql(tx, "SELECT to_address, accepted FROM test_mail ORDER BY id")
    assert [tuple(one) for one in sent] == [("board@readers.example", True), ("shop@readers.example", True)]
    # A list that is removed comes back by undo.
    lens.get_by_role("button", name="To…").click()
    page.get_by_role("menuitem", name="Remove the list “Board and shop”").click()
    page.get_by_role("button", name="Undo", exact=True).click()
    lens.get_by_role("button", name="To…").click()
    expect(page.get_by_role("menuitem", name="Board and shop 2")).to_be_visible()


def test_html_is_written_where_no_other_block_does(page: Page, database: Database) -> None:
    subject(page).fill("Walks")
    page.get_by_role("button", name="Add below", exact=True).click()
    page.get_by_role("menuitem", name="HTML").click()
    html = page.get_by_label("HTML of this block")
    html.fill('<p onclick="x">Dear</p>')
    expect(page.get_by_text("“onclick” cannot stand in a letter: take it out.").first).to_be_visible()
    html.fill("")
    html.press_sequentially('<table><tr><td>Dear @{first_name else "friend"}</td></tr></table>')
    html.press("Enter")
    html.press_sequentially("<b>Come</b>")
    letter = page.get_by_role("complementary", name="Lens").frame_locator("iframe")
    expect(letter.get_by_role("cell", name="Dear").last).to_be_visible()
    expect(letter.locator("b")).to_have_text("Come")
    expect(page.get_by_role("alert")).to_have_count(0)
    html.press("Control+z")
    expect(html).not_to_have_value(re.compile("Come"))
    page.get_by_role("button", name="Redo (Ctrl Shift Z)").click()
    block = saved(page, database).blocks[0]
    assert isinstance(block, Html)
    assert block.source == '<table><tr><td>Dear @{first_name else "friend"}</td></tr></table>\n<b>Come</b>'


def test_each_person_gets_a_file_of_their_own_and_nobody_without_it(page: Page, database: Database) -> None:
    lens = page.get_by_role("complementary", name="Lens")
    subject(page).fill("Your card")
    words(page).fill("Here it is.")
    who = lens.get_by_role("heading").first.inner_text()
    with database.transaction() as tx:
        name = "concat_ws(' ', first_name, last_name) = :who AND deleted_at IS NULL"
        number = run_sql(tx, f"SELECT contact_no FROM contact WHERE {name}", {"who": who})[0].contact_no
    attachments = page.get_by_role("region", name="Attachments")
    attachments.get_by_role("button", name="A file for each person").click()
    expect(attachments.get_by_text("Upload the files, one for each person.")).to_be_visible()
    attachments.locator("input[type=file][multiple]").set_input_files(
        [
            {"name": f"card {number}.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.7 one"},
            {"name": "card SV-000000.pdf", "mimeType": "application/pdf", "buffer": b"%PDF-1.7 two"},
            {"name": "card SV-000001.pdf", "mimeType": "application/pdf", "buffer": b"MZ no PDF"},
        ]
    )
    expect(attachments.get_by_text("card SV-000001.pdf: Its name ends in .pdf")).to_be_visible()
    expect(attachments.get_by_role("status")).to_have_text("2 files")
    attachments.get_by_role("textbox", name="What each person's file is called").focus()
    page.keyboard.type("card @contact no")
    page.keyboard.press("Enter")
    attached = lens.get_by_role("list", name="Attached")
    expect(attached).to_contain_text(f"card {number}.pdf")
    attachments.get_by_label("Nobody gets the message without their file").check()
    (own,) = saved(page, database).attachments
    assert isinstance(own, OwnFiles)
    assert (own.name, own.needed, [one.name for one in own.files]) == (
        "card @{contact_no}",
        True,
        [f"card {number}.pdf", "card SV-000000.pdf"],
    )
