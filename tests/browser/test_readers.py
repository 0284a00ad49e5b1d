"""What is noted of readers, what their page offers, and what anybody may read: set up here, and seen by them at once."""

from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.browser.test_preferences import PHONE, faults, link
from tests.support.processes import Installation
from uvarovite.store.database import Database, run_sql

__all__ = ["link"]


def test_what_is_set_up_for_readers_is_what_they_meet(
    browser: Browser, demo_web: Installation, database: Database, link: str
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/set-up/readers")
    page.get_by_label("Who follows a link is").select_option(label="counted, but not by whom")
    page.get_by_role("combobox", name="Fields that people may correct themselves").click()
    page.get_by_role("option", name="Town").click()
    page.keyboard.press("Escape")
    page.get_by_label("Schools").uncheck()
    page.get_by_role("button", name="Save").dblclick()
    expect(page.get_by_text("Kept: the page offers it now")).to_be_visible()
    page.reload()
    expect(page.get_by_label("Who follows a link is")).to_have_value("counted")
    expect(page.get_by_label("Schools")).not_to_be_checked()
    # A campaign says otherwise, and its summary says so.
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=pace")
    page.get_by_label("Who opens it is").select_option(label="not noted at all")
    page.goto(f"{demo_web.web_url}/campaigns/1?stop=release")
    expect(page.get_by_text("Opens are not noted and clicks are counted, but not by whom.")).to_be_visible()
    with database.transaction() as tx:
        sql = "SELECT contact_id, record->>'town' AS town FROM delivery WHERE record->>'language' = 'en' ORDER BY id LIMIT 1"
        reader = run_sql(tx, sql)[0]

    visitor = browser.new_context(viewport=PHONE, java_script_enabled=False).new_page()
    visitor.goto(f"{link}/preferences")
    expect(visitor.get_by_label("Schools")).to_have_count(0)
    expect(visitor.get_by_label("Town")).to_have_value(reader.town or "")
    visitor.get_by_label("Town").fill("Upper Gossan")
    visitor.get_by_label("Nothing at all").check()
    visitor.get_by_role("button", name="Save").click()
    expect(visitor.get_by_label("Town")).to_have_value("Upper Gossan")
    expect(visitor.get_by_label("Nothing at all")).to_be_checked()

    page.goto(f"{demo_web.web_url}/contacts?person={reader.contact_id}")
    panel = page.get_by_role("complementary", name="Person")
    expect(panel).to_contain_text("Upper Gossan")
    panel.locator("label").filter(has_text="Consent").click()
    wish = panel.get_by_label("What they open and follow is")
    expect(wish).to_have_value("off")
    wish.select_option(label="noted as usual")
    expect(page.get_by_text("Kept: it holds at once")).to_be_visible()
    visitor.goto(f"{link}/preferences")
    expect(visitor.get_by_label("Nothing at all")).not_to_be_checked()


def test_a_public_copy_is_shared_read_by_anybody_and_taken_back(
    browser: Browser, demo_web: Installation, link: str
) -> None:
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/responses?run=1")
    allow = page.get_by_label("Anybody who has the link may read it")
    expect(allow).not_to_be_checked()
    allow.click()
    shared = page.get_by_label("Public copy").get_by_role("link")
    expect(shared).to_be_visible()
    address = shared.get_attribute("href")
    assert address is not None
    for scripts in (True, False):
        visitor = browser.new_context(viewport=PHONE, java_script_enabled=scripts, bypass_csp=scripts).new_page()
        visitor.goto(address)
        expect(visitor.get_by_text("Dear friend of the museum,")).to_be_visible()
        expect(visitor.get_by_role("link", name="Leave")).to_have_count(0)
        if scripts:
            # A message is no page: it has no landmarks.
            assert [one for one in faults(visitor) if not one.startswith(("region", "landmark"))] == []
            assert visitor.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
    allow.click()
    expect(shared).to_have_count(0)
    visitor.goto(address)
    expect(visitor.get_by_role("heading", name="This link is not complete")).to_be_visible()
