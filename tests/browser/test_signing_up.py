"""Signing up, from a form that is set up to the contact that came of it: on a telephone, without scripts, over real mail."""

import re
from datetime import timedelta

import httpx
from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.browser.test_preferences import PHONE, faults
from tests.support.processes import Installation, until
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.responses.signing_up import FASTEST
from uvarovite.store.database import Database, run_sql

NEW = "ottoline.harkness@slatepost.example"


def welcome_link(inbox_url: str) -> str:
    """The link to leave in the message that welcomed the newcomer, as the simulated mailbox shows it; "" while there is none."""
    found = httpx.get(inbox_url, params={"search": NEW}).text
    for message in re.findall(r'href="(/m/\d+)"', found):
        told = re.search(r"https?://[^/\s\"]+/u/[\w-]+", httpx.get(f"{inbox_url}{message}?view=text").text)
        if told:
            return told[0]
    return ""


def test_somebody_signs_up_confirms_is_a_contact_and_is_welcomed(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    demo_web.environment["UVAROVITE_PUBLIC_URL"] = demo_web.web_url
    demo_web.start_rehearsal(speed=6_000)
    demo_web.start("worker")
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/set-up/sign-up")
    page.get_by_role("button", name="New form").click()
    page.get_by_label("Name", exact=True).fill("Front desk")
    page.get_by_label("Title of its page").fill("Hear of our walks")
    page.get_by_label("What people agree to").fill("Write to me about walks; I can leave at any time.")
    page.get_by_label("In another language too").select_option(label="German")
    page.get_by_label("Title of its page (German)").fill("Von unseren Wanderungen hören")
    page.get_by_label("What people agree to (German)").fill("Schreiben Sie mir von Wanderungen.")
    page.get_by_label("Who has confirmed is welcomed with").select_option(label="Welcome")
    page.get_by_role("group", name="For which topics").get_by_label("Field walks").check()
    page.get_by_role("button", name="Save the form").dblclick()
    line = page.get_by_label("Sign-up", exact=True).locator("div").filter(has_text="Front desk")
    expect(line).to_have_count(1)
    page.get_by_role("button", name="Page and HTML of Front desk").click()
    link = page.get_by_role("link").filter(has_text="/s/").get_attribute("href")
    assert link is not None
    visitor = browser.new_context(viewport=PHONE, java_script_enabled=False, locale="de-DE").new_page()
    visitor.goto(link)
    expect(visitor.get_by_role("heading", name="Von unseren Wanderungen hören")).to_be_visible()
    visitor.goto(f"{link}?language=en")
    opened = system_clock()
    with database.transaction() as tx:
        shown = run_sql(tx, "SELECT seen FROM sign_up_form WHERE name = 'Front desk'")[0].seen
    assert shown == 2
    visitor.get_by_label("E-mail address").fill(NEW)
    visitor.get_by_label("First name").fill("Ottoline")
    # What is sent in sooner than anybody types is taken for a machine's.
    until(lambda: system_clock() - opened > FASTEST + timedelta(seconds=1), "as long as somebody types")
    visitor.get_by_role("button", name="Sign up").click()
    expect(visitor.get_by_role("heading", name="Look into your mailbox")).to_be_visible()

    # The simulated world reads its mail and confirms; its owner is a contact at once.
    def confirmed() -> bool:
        with database.transaction() as tx:
            return bool(run_sql(tx, "SELECT FROM sign_up WHERE confirmed_at IS NOT NULL"))

    until(confirmed, "the confirmation")
    page.goto(f"{demo_web.web_url}/contacts?search=ottoline.harkness")
    page.get_by_role("grid", name="Contacts").get_by_role("row").nth(1).click()
    panel = page.get_by_role("complementary", name="Person")
    panel.locator("label").filter(has_text="Consent").click()
    expect(panel).to_contain_text("Write to me about walks; I can leave at any time.")

    # They are welcomed, and leave by that message as by any other.
    leave = until(lambda: welcome_link(demo_web.inbox_url), "the welcome")
    visitor.goto(leave)
    visitor.get_by_role("button", name="Leave “Field walks”").click()
    expect(visitor.get_by_role("heading", name="You have left “Field walks”.")).to_be_visible()
    page.goto(f"{demo_web.web_url}/set-up/sign-up")
    expect(page.get_by_text("confirmed 1 (100 %), welcomed 1.")).to_be_visible()


def test_nothing_of_a_form_is_in_the_way_of_whoever_reads_with_a_machine(
    browser: Browser, demo_web: Installation, database: Database
) -> None:
    with database.transaction() as tx:
        key = run_sql(tx, "SELECT key FROM sign_up_form")[0].key
    for scheme in ("light", "dark"):
        page = browser.new_context(viewport=PHONE, color_scheme=scheme, bypass_csp=True).new_page()  # type: ignore[arg-type]
        page.goto(f"{demo_web.web_url}/s/{key}")
        assert faults(page) == []
        assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
        page.get_by_label("E-mail address").fill("not an address")
        page.locator("form").evaluate("form => { form.elements.shown.remove(); form.noValidate = true; form.submit() }")
        expect(page.get_by_role("alert")).to_be_visible()
        assert faults(page) == []
