"""The lens beside the words: whom it looks at, and what goes along with whose letter."""

import io
import re
from datetime import UTC, datetime

from PIL import Image
from playwright.sync_api import Browser, Page, expect

from tests.browser.signing_in import signed_in
from tests.browser.writing import saved, subject, words
from tests.support.processes import Installation
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Arm, Only, Paragraph, Picture
from uvarovite.core.messages.attachments import CalendarEntry
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.store.database import Database


def test_everybody_is_looked_at_when_somebody_steps_far_and_never_at_a_keystroke(
    browser: Browser, demo_web: Installation
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages/1")
    lens = page.get_by_role("complementary", name="Lens")
    letter = lens.frame_locator("iframe")
    expect(lens).to_contain_text(re.compile(r"1 of \d+ cleared"))
    looks: list[str] = []
    page.on("request", lambda request: looks.append(request.url) if request.url.endswith("/api/lens/person") else None)
    first = lens.get_by_role("heading").first.inner_text()
    subject(page).fill("Three walks")
    words(page).press("Control+End")
    page.keyboard.type(" Bring a friend along.")
    expect(lens).to_contain_text("Three walks")
    expect(letter.locator("body")).to_contain_text("Bring a friend along.")
    for place in (2, 3, 4):
        lens.get_by_role("button", name="Next person", exact=True).click()
        expect(lens).to_contain_text(f"{place} of ")
    expect(lens.get_by_role("heading").first).not_to_have_text(first)
    for place in (3, 2, 1):
        lens.get_by_role("button", name="Previous person").click()
        expect(lens).to_contain_text(f"{place} of ")
    expect(lens.get_by_role("heading").first).to_have_text(first)
    assert looks == []
    # Before the first stands the last, who is found by a look at everybody.
    lens.get_by_role("button", name="Previous person").click()
    expect(lens).to_contain_text(re.compile(r"(\d+) of \1 cleared"))
    assert len(looks) == 1


def test_what_goes_along_is_chosen_for_a_language_and_within_the_letter(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/messages/1")
    lens = page.get_by_role("complementary", name="Lens")
    attachments = page.get_by_role("region", name="Attachments")
    attachments.get_by_role("button", name="Calendar entry").click()
    attachments.get_by_role("textbox", name="Title of the entry").fill("Wanderung")
    attachments.get_by_label("Day of the entry").fill("2027-03-14")
    attached = lens.get_by_role("list", name="Attached")
    expect(attached).to_have_text(re.compile("invitation.ics"))
    # To whom it goes is asked once there are several languages.
    to_whom = attachments.get_by_label("To whom it goes")
    expect(to_whom).to_have_count(0)
    page.get_by_role("button", name="Add a language").click()
    page.get_by_role("menuitem", name="German").click()
    page.get_by_role("tab", name="English · main").click()
    to_whom.select_option("with the words in German")
    expect(attached).to_have_count(0)
    page.get_by_role("tab", name="German").click()
    expect(lens).to_contain_text("gets the words in German")
    expect(attached).to_have_text(re.compile("invitation.ics"))
    page.get_by_role("button", name="Remove German").click()
    expect(attachments.get_by_text("This goes to readers of a language in which")).to_be_visible()
    to_whom.select_option("to everybody")
    expect(to_whom).to_have_count(0)
    put_in_a_picture(page)
    along = page.get_by_label("Goes along with every message; else readers fetch it")
    expect(lens.frame_locator("iframe").get_by_alt_text("An owl")).to_be_visible()
    along.check()
    lens.get_by_text("Source", exact=True).click()
    expect(lens.locator("pre")).to_contain_text("multipart/related")
    content = saved(page, database)
    (picture,) = [one for one in content.blocks if isinstance(one, Picture)]
    assert picture.embedded
    (entry,) = content.attachments
    assert isinstance(entry, CalendarEntry)
    assert entry.language is None
    # A picture of somebody else's is fetched, or it is said.
    page.get_by_role("textbox", name="Address of the picture").fill("https://elsewhere.example/owl.png")
    expect(page.get_by_text("Only a picture that was uploaded here can go along").first).to_be_visible()
    along.click()
    expect(page.get_by_text("Only a picture that was uploaded here can go along")).to_have_count(0)


def test_on_the_run_sheet_each_branch_says_how_many_read_it(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    message = get_message(database, SYSTEM, 1)
    arms = [
        Arm(criteria=f'membership is "{one}"', blocks=(Paragraph(text=f"For a {one}."),))
        for one in ("Patron", "Fellow")
    ]
    only = Only(id="only", arms=tuple(arms), otherwise=(Paragraph(text="For all others."),))
    content = message.content.model_copy(update={"blocks": (*message.content.blocks, only)})
    save_message(
        database,
        SYSTEM,
        message_id=1,
        name=message.name,
        content=content,
        revision=message.revision,
        now=datetime.now(UTC),
    )
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=words")
    total = re.compile(r"1 of (\d+) cleared")
    lens = page.get_by_role("complementary", name="Lens")
    expect(lens).to_contain_text(total)
    expect(words(page)).to_contain_text(re.compile(r"else for everybody else · \d+ (person|people)"))
    read = [int(one) for one in re.findall(r"·\s(\d+) (?:person|people)", words(page).inner_text())]
    assert len(read) == 3
    assert sum(read) == int(total.findall(lens.inner_text())[0])
    assert min(read) > 0
    # On a message's own page nobody knows whom it goes to.
    page.goto(f"{demo_web.web_url}/messages/1")
    expect(words(page)).to_contain_text("else for everybody else")
    assert "·" not in words(page).inner_text()


def put_in_a_picture(page: Page) -> None:
    out = io.BytesIO()
    Image.new("RGB", (300, 200), (40, 120, 90)).save(out, "PNG")
    words(page).press("Control+End")
    page.get_by_role("button", name="Add below", exact=True).click()
    page.get_by_role("menuitem", name="Picture").click()
    page.locator("input[type=file][accept='image/*']").set_input_files(
        {"name": "owl.png", "mimeType": "image/png", "buffer": out.getvalue()}
    )
    page.get_by_role("textbox", name="What is on the picture").fill("An owl")
