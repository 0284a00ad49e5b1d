"""Letters on paper: laid out, looked at, printed, and noted with the people who get them."""

import io
import re

from playwright.sync_api import Browser, expect
from pypdf import PdfReader

from tests.browser.signing_in import signed_in
from tests.browser.test_audiences import WIDE
from tests.support.processes import Installation
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.audiences.audiences import audience_list, save_audience
from uvarovite.store.database import Database


def test_who_has_no_address_gets_a_letter_once_and_nobody_who_wants_no_post(
    browser: Browser, database: Database, demo_web: Installation
) -> None:
    (theirs,) = [one for one in audience_list(database, SYSTEM) if one.id == 1]
    save_audience(
        database, SYSTEM, audience_id=1, name=theirs.name, text="everyone", revision=theirs.revision, now=system_clock()
    )
    page = signed_in(browser, demo_web, **WIDE)
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=who")
    page.get_by_role("button", name="On paper").click()
    begin = page.get_by_role("button", name=re.compile(r"Lay out \d letters"))
    number = int(begin.inner_text().split()[2])
    assert number > 2
    sample = page.get_by_role("link", name="Look at the first letter").get_attribute("href")
    assert page.request.get(f"{demo_web.web_url}{sample}").body().startswith(b"%PDF")
    begin.dblclick()
    stack = page.get_by_role("region", name="Letters to be printed")
    expect(stack).to_contain_text(f"{number} letters, {number} pages")
    with page.expect_download() as download:
        stack.get_by_role("link", name="Download the PDF").click()
    assert download.value.suggested_filename == "Autumn field walks, letters.pdf"
    first = PdfReader(io.BytesIO(download.value.path().read_bytes())).pages[0].extract_text()
    assert "Yours" in first or "Signe Vale" in first
    # One of them says in the meantime that they want none.
    page.get_by_role("button", name="Show who is cleared").click()
    page.get_by_role("list", name="Who is cleared").get_by_role("link").first.click()
    page.get_by_text("Consent", exact=True).click()
    page.get_by_role("button", name="Record for letters on paper").click()
    page.get_by_label("How, and in which words").fill("By telephone: no letters, please")
    page.get_by_role("button", name="They want no letters").dblclick()
    expect(page.get_by_role("region", name="Letters on paper")).to_contain_text("wants no post")
    page.go_back()
    expect(page.get_by_role("list", name="To be taken out").get_by_role("listitem")).to_have_count(1)
    stack.get_by_role("button", name="They are printed…").click()
    stack.get_by_role("button", name=re.compile(f"Note {number - 1} letters? as printed")).click()
    expect(page.get_by_role("list", name="Printed letters")).to_contain_text("got a letter on paper")
    expect(page.get_by_role("navigation", name="Stops")).to_contain_text("got a letter")
    clearance = page.get_by_role("region", name="Clearance")
    clearance.get_by_role("button", name="not printed already").click()
    clearance.get_by_role("button", name="Show the people").click()
    clearance.get_by_role("list", name=re.compile("held")).get_by_role("link").first.click()
    page.get_by_text("Mail", exact=True).click()
    expect(page.get_by_role("region", name="Sent to them")).to_contain_text("printed, a letter on paper")
