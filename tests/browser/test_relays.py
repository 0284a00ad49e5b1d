"""Relays in Set-up: tried step by step, with what was said."""

from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation
from tests.support.relays import Script, relay_aside

OFFERS = "250-relay.example\r\n250-SIZE 20971520\r\n250 AUTH PLAIN"


def test_a_wrong_password_is_told_with_what_was_said_and_the_right_one_sends_a_message_to_oneself(
    browser: Browser, world: Installation
) -> None:
    script = Script(replies={"EHLO": OFFERS, "AUTH": "535 5.7.8 Wrong user or password"})
    with relay_aside(script) as port:
        page = signed_in(browser, world, viewport={"width": 1280, "height": 800})
        page.goto(f"{world.web_url}/set-up/relays")
        page.get_by_label("Port", exact=True).fill(str(port))
        page.get_by_label("User", exact=True).fill("museum")
        page.get_by_label("Password", exact=True).fill("not-the-one")
        page.get_by_label("At most in a minute").fill("60")
        page.get_by_role("button", name="Save and try it").click()
        expect(page.get_by_text("Check user and password.")).to_be_visible()
        # The step that failed is open: what was said in it stands there, and no password.
        expect(page.get_by_text("AUTH PLAIN ****")).to_be_visible()
        expect(page.get_by_text("535 5.7.8 Wrong user or password").last).to_be_visible()
        assert "not-the-one" not in page.content()

        script.replies["AUTH"] = "235 2.7.0 Welcome"
        page.get_by_label("Password", exact=True).fill("garnet-lantern")
        page.get_by_role("button", name="Save and try it").click()
        expect(page.get_by_text("The relay said: 250 2.0.0 Ok: queued")).to_be_visible()
        page.get_by_text("envelope", exact=True).click()
        expect(page.get_by_text("RCPT TO:<")).to_be_visible()
        assert len(script.messages) == 1
        assert b"Subject: Test of the relay" in script.messages[0]

        # What was typed is what is there after a reload.
        page.reload()
        expect(page.get_by_label("At most in a minute")).to_have_value("60")
        expect(page.get_by_label("Port", exact=True)).to_have_value(str(port))
        page.close()
