"""Relays in Set-up: tried step by step, with what was said."""

import re

from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.support.ports import free_port
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
        page.get_by_role("button", name="Change Main relay").click()
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
        page.get_by_role("button", name="Change Main relay").click()
        expect(page.get_by_label("At most in a minute")).to_have_value("60")
        expect(page.get_by_label("Port", exact=True)).to_have_value(str(port))
        page.close()


def test_relays_are_made_and_removed_and_a_run_fails_over_to_the_reserve(
    browser: Browser, demo_web: Installation
) -> None:
    reserve = Script()
    with relay_aside(reserve) as port:
        page = signed_in(browser, demo_web, viewport={"width": 1280, "height": 800})
        page.goto(f"{demo_web.web_url}/set-up/relays")
        expect(page.get_by_text("Main relay carries the mail. Reserve relay stands in")).to_be_visible()
        # The first has gone; the reserve is another machine.
        for name, to_port in (("Main relay", free_port()), ("Reserve relay", port)):
            page.get_by_role("button", name=f"Change {name}").click()
            page.get_by_label("Port", exact=True).fill(str(to_port))
            page.get_by_role("button", name="Save", exact=True).click()
            expect(page.get_by_text(f"127.0.0.1:{to_port}")).to_be_visible()
        page.get_by_role("button", name="Add a relay to Museum mail").click()
        page.get_by_label("Name", exact=True).fill("Third relay")
        page.get_by_label("Host").fill("relay.skarnmuseum.example")
        page.get_by_text("Place in its pool").click()
        page.get_by_label("Place in the pool").fill("3")
        page.get_by_role("button", name="Save", exact=True).click()
        expect(page.get_by_text("Third relay stands in while all before are in trouble.")).to_be_visible()
        page.get_by_text("Third relay", exact=True).locator("..").get_by_role("button", name="Remove…").click()
        page.get_by_role("button", name="Remove Third relay").click()
        expect(page.get_by_text("Third relay", exact=True)).to_have_count(0)

        demo_web.start("worker")
        page.goto(f"{demo_web.web_url}/campaigns/1?stop=release")
        page.get_by_role("button", name=re.compile("^Release to")).click()
        page.get_by_role("button", name="Release now").click()
        gauges = page.get_by_role("region", name="Relays")
        expect(gauges.get_by_text(re.compile("rests until"))).to_be_visible()
        expect(gauges.get_by_text("carries it")).to_be_visible()
        expect(gauges.get_by_text("Nothing listens at 127.0.0.1")).to_be_visible()
        expect(page.get_by_text("Nobody is lost")).to_have_count(0)
        expect(page.get_by_text(re.compile("^250 2.0.0 Ok: queued")).first).to_be_visible()
        assert reserve.messages

        # Whoever takes away what a run needs is told so.
        page.goto(f"{demo_web.web_url}/set-up/relays")
        for name in ("Main relay", "Reserve relay"):
            page.get_by_text(name, exact=True).locator("..").get_by_role("button", name="Remove…").click()
            page.get_by_role("button", name=f"Remove {name}").click()
        expect(page.get_by_text("no other is in its pool")).to_be_visible()
        page.close()
