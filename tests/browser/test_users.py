"""Who works here: invited by a link, with buttons for what they may do and no others; tokens; the log."""

import re

import httpx
from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.browser.test_audiences import WIDE, world
from tests.support.processes import Installation

__all__ = ["world"]
PASSWORD = "slate-and-schist-7"


def invite(page: Page, world: Installation, email: str, name: str, role: str) -> str:
    """Invite somebody; the link that is shown once."""
    page.goto(f"{world.web_url}/set-up/users")
    page.get_by_role("button", name="Invite somebody").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("E-mail address").fill(email)
    dialog.get_by_label("Name").fill(name)
    dialog.get_by_label("Role").select_option(label=role)
    dialog.get_by_role("button", name="Make the link").dblclick()
    link = dialog.get_by_text(re.compile("/join#"))
    expect(link).to_be_visible()
    return link.inner_text().strip()


def join(browser: Browser, link: str) -> Page:
    """Come in by a link, with a password of one's own."""
    page = browser.new_context(locale="en-GB", **WIDE).new_page()
    page.set_default_timeout(20_000)
    page.goto(link)
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("link", name="Contacts").first).to_be_visible()
    return page


def test_an_invited_reader_looks_at_everything_and_meets_no_button_that_would_refuse(
    browser: Browser, world: Installation
) -> None:
    admin = signed_in(browser, world, **WIDE)
    link = invite(admin, world, "oda.mica@skarnmuseum.example", "Oda Mica", "Reader")
    admin.keyboard.press("Escape")
    expect(admin.get_by_role("cell", name="invited, not come yet")).to_be_visible()
    oda = join(browser, link)
    refused: list[str] = []
    oda.on("response", lambda answer: refused.append(answer.url) if answer.status == 403 else None)
    for path, there, missing in (
        ("/", "Nothing is going out", "Import people"),
        ("/contacts?person=5", "with museum contacts.csv", "Import people"),
        ("/contacts/import", "There is nothing here for you", "Fetch and preview"),
        ("/contacts/sources/1", "Museum shop", "Save"),
        ("/contacts/suppression", "in force", "Put on the list"),
        ("/contacts/duplicates", "Duplicates", "Merge into one"),
        ("/audiences", "Walkers near the valley", "New audience"),
        ("/audiences/1", "people are cleared to receive", "Save"),
        ("/messages/1", "Letter", "Send test"),
        ("/campaigns/1?stop=who", "people are cleared to receive", "Lift it for this campaign"),
        ("/campaigns/1?stop=words", "Letter", "Send test"),
        ("/campaigns/1?stop=pace", "If released now", "Save"),
        ("/campaigns/1?stop=release", "Releasing takes the role Releaser", "Release to"),
        ("/set-up/account", "this browser", "Users"),
        ("/set-up/relays", "There is nothing here for you", "Save"),
    ):
        oda.goto(f"{world.web_url}{path}")
        expect(oda.get_by_text(there).first).to_be_attached()
        oda.wait_for_load_state("networkidle")
        expect(oda.get_by_role("main").get_by_role("button", name=missing)).to_have_count(0)
        expect(oda.get_by_role("main").get_by_role("link", name=missing)).to_have_count(0)
    assert refused == []
    # What was typed in between stays what it was: nothing can be typed.
    oda.goto(f"{world.web_url}/messages/1")
    expect(oda.get_by_role("textbox", name="Subject")).to_have_attribute("contenteditable", "false")
    # Another role holds from now on; the old session is over.
    admin.goto(f"{world.web_url}/set-up/users")
    admin.get_by_label("Role of Oda Mica").select_option(label="Author")
    expect(admin.get_by_text("has to sign in again")).to_be_visible()
    oda.goto(f"{world.web_url}/audiences")
    expect(oda.get_by_role("button", name="Sign in")).to_be_visible()
    oda.get_by_label("E-mail address").fill("oda.mica@skarnmuseum.example")
    oda.get_by_role("textbox", name="Password").fill(PASSWORD)
    oda.keyboard.press("Enter")
    expect(oda.get_by_role("link", name="New audience")).to_be_visible()
    # Leaving is at once, too.
    admin.get_by_role("button", name="More about Oda Mica").click()
    admin.get_by_role("menuitem", name="Close the account").click()
    admin.get_by_role("dialog").get_by_role("button", name="Close it…").click()
    admin.get_by_role("dialog").get_by_role("button", name="Close the account").click()
    expect(admin.get_by_text("No longer here: Oda Mica")).to_be_visible()
    oda.reload()
    expect(oda.get_by_role("button", name="Sign in")).to_be_visible()
    # All of it stands in the log, and is found there.
    admin.goto(f"{world.web_url}/set-up/log")
    admin.get_by_label("Words").fill("oda mica")
    for words in (
        "invited Oda Mica as Reader",
        "made Oda Mica Author; before: Reader",
        "closed the account of Oda Mica",
    ):
        expect(admin.get_by_role("cell", name=words)).to_be_visible()
    expect(admin.get_by_text("saved the audience")).to_have_count(0)
    admin.reload()
    expect(admin.get_by_label("Words")).to_have_value("oda mica")


def test_a_link_that_was_used_says_so(browser: Browser, world: Installation) -> None:
    admin = signed_in(browser, world, **WIDE)
    link = invite(admin, world, "oda.mica@skarnmuseum.example", "Oda Mica", "Author")
    join(browser, link)
    late = browser.new_context(locale="en-GB", **WIDE).new_page()
    late.goto(link)
    expect(late.get_by_text("was used already or is too old")).to_be_visible()
    late.get_by_role("link", name="Sign in by password").click()
    expect(late.get_by_role("button", name="Sign in")).to_be_visible()


def test_a_token_is_shown_once_and_lets_a_program_in_until_it_is_revoked(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/set-up/tokens")
    page.get_by_role("button", name="New token").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What is it for?").fill("The till")
    dialog.get_by_role("button", name="Make the token").click()
    shown = dialog.get_by_text(re.compile("^uvarovite_"))
    expect(shown).to_be_visible()
    program = httpx.Client(base_url=world.web_url, headers={"Authorization": f"Bearer {shown.inner_text().strip()}"})
    assert program.get("/api/audiences").status_code == 200
    assert program.post("/api/audiences", json={"name": "Mine", "text": "everyone"}).status_code == 403
    page.keyboard.press("Escape")
    page.reload()
    expect(page.get_by_text("Last used")).to_be_visible()
    expect(page.get_by_text(re.compile("^uvarovite_.{10}"))).to_have_count(0)
    page.get_by_role("button", name="Revoke…").click()
    page.get_by_role("button", name="Revoke The till").click()
    expect(page.get_by_text("Revoked: The till")).to_be_visible()
    assert program.get("/api/audiences").status_code == 401


def test_the_organisation_and_its_senders_are_set_up(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, **WIDE)
    page.goto(f"{world.web_url}/set-up/organisation")
    page.get_by_label("Postal address").fill("")
    page.get_by_role("button", name="Save the organisation").click()
    expect(page.get_by_text("is needed; it stands in every message")).to_be_visible()
    page.get_by_label("Postal address").fill("2 Slate Row\nSK1 2AB Skarn")
    page.get_by_label("List domain").fill("walks.skarnmuseum.example")
    page.get_by_role("button", name="Save the organisation").click()
    expect(page.get_by_text("Messages that are released from now on carry it")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Postal address")).to_have_value("2 Slate Row\nSK1 2AB Skarn")
    page.get_by_role("link", name="Senders").click()
    page.get_by_role("button", name="New sender").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Walk leaders")
    dialog.get_by_label("Address").fill("walks at skarn")
    dialog.get_by_role("button", name="Save the sender").click()
    expect(dialog.get_by_role("alert")).to_contain_text("is not an e-mail address")
    dialog.get_by_label("Address").fill("leaders@skarnmuseum.example")
    dialog.get_by_role("button", name="Save the sender").click()
    row = page.get_by_role("region", name="Senders")
    expect(row).to_contain_text("leaders@skarnmuseum.example")
    row.get_by_role("button", name="Remove…").last.click()
    row.get_by_role("button", name="Remove Walk leaders").click()
    expect(row).not_to_contain_text("leaders@skarnmuseum.example")
    row.get_by_role("button", name="Remove…").first.click()
    row.get_by_role("button", name=re.compile("^Remove ")).click()
    expect(page.get_by_text("comes from this sender; choose another there first")).to_be_visible()
