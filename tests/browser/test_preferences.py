"""The preference page as recipients meet it: on a telephone, with and without scripts, by keyboard, in their language."""

from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.support.museum import KEYRING
from tests.support.processes import Installation
from uvarovite.bootstrap.clocks import system_clock
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, derive_keyring, sign_token
from uvarovite.services.campaigns.campaigns import get_campaign
from uvarovite.services.campaigns.releases import release
from uvarovite.store.database import Database, run_sql

AXE = (Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")
PHONE = {"width": 390, "height": 844}


@pytest.fixture
def link(demo_web: Installation, database: Database) -> str:
    """The link to leave of somebody who reads English, in a run that is on its way."""
    now = system_clock()
    view = get_campaign(database, SYSTEM, 1, now)
    assert view.clearance is not None
    assert view.message_number is not None
    run_id = release(
        database,
        SYSTEM,
        campaign_id=1,
        revision=view.revision,
        seen_cleared=view.clearance.cleared,
        seen_message_number=view.message_number,
        public_url=demo_web.web_url,
        keyring=KEYRING,
        now=now,
    )
    with database.transaction() as tx:
        sql = "SELECT id FROM delivery WHERE run_id = :run AND record->>'language' = 'en' ORDER BY id LIMIT 1"
        delivery = run_sql(tx, sql, {"run": run_id})[0].id
    keyring = derive_keyring(demo_web.environment["UVAROVITE_SECRET_KEY"].encode())
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=delivery), keyring)
    return f"{demo_web.web_url}/u/{token}"


def faults(page: Page) -> list[str]:
    """What axe finds; it needs a page that lets scripts in."""
    page.evaluate(AXE)
    told = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [f"{one['id']}: {one['nodes'][0]['html'][:120]}" for one in told["violations"]]


@pytest.mark.parametrize("scripts", [True, False])
def test_somebody_chooses_what_they_get_on_a_telephone(browser: Browser, link: str, scripts: bool) -> None:
    page = browser.new_context(viewport=PHONE, java_script_enabled=scripts).new_page()
    page.goto(link)
    page.get_by_role("link", name="Choose what you get, and how often").click()
    page.get_by_label("Field walks").uncheck()
    page.get_by_label("Museum news").check()
    page.get_by_label("At most one message a month").check()
    page.get_by_label("First name").fill("Ottoline")
    page.get_by_label("Language").select_option(label="Deutsch")
    page.get_by_role("button", name="Save").dblclick()
    expect(page.get_by_role("status")).to_contain_text("Gespeichert.")
    # As it stands now, for whoever comes back another day.
    page.goto(f"{link}/preferences")
    expect(page.get_by_role("status")).to_have_count(0)
    expect(page.get_by_label("Field walks")).not_to_be_checked()
    expect(page.get_by_label("Museum news")).to_be_checked()
    expect(page.get_by_label("Höchstens eine Nachricht im Monat")).to_be_checked()
    expect(page.get_by_label("Vorname")).to_have_value("Ottoline")
    page.go_back()
    # Leaving by keyboard alone, and taking it back.
    page.goto(link)
    expect(page.get_by_role("heading", name="„Field walks“ ist abbestellt.")).to_be_visible()
    page.get_by_role("button", name="Das war ein Versehen").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Sie erhalten „Field walks“ weiterhin.")).to_be_visible()


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_nothing_is_in_the_way_of_whoever_reads_with_a_machine(browser: Browser, link: str, scheme: str) -> None:
    context = browser.new_context(viewport=PHONE, color_scheme=scheme, bypass_csp=True)  # type: ignore[arg-type]
    page = context.new_page()
    for address in (link, f"{link}/preferences", f"{link}x"):
        page.goto(address)
        assert faults(page) == []
        assert page.evaluate("document.documentElement.scrollWidth <= window.innerWidth")
