"""Signing in Set-up: a key is made, published, found and signs."""

import re

import httpx
from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation


def test_a_key_is_made_published_found_and_signs(browser: Browser, world: Installation) -> None:
    page = signed_in(browser, world, viewport={"width": 1280, "height": 800})
    page.goto(f"{world.web_url}/set-up/signing")
    page.get_by_role("button", name="Make a key").click()
    expect(page.get_by_text("has not been looked up yet")).to_be_visible()
    expect(page.get_by_role("button", name="Begin to sign")).to_be_disabled()
    page.get_by_role("button", name="Look it up").click()
    expect(page.get_by_text("is not in the DNS yet")).to_be_visible()
    name, text = page.locator("code").all_inner_texts()
    assert re.fullmatch(r"r\d{8}\._domainkey\.skarnmuseum\.example", name)
    published = httpx.post(f"http://127.0.0.1:{world.ports['inbox']}/names", data={"name": name, "text": text})
    assert published.status_code == 303
    page.get_by_role("button", name="Look it up").click()
    expect(page.get_by_text("is in the DNS, and signs nothing yet")).to_be_visible()
    page.get_by_role("button", name="Begin to sign").click()
    expect(page.get_by_text("signs what is released from now on")).to_be_visible()
    httpx.post(
        f"http://127.0.0.1:{world.ports['inbox']}/names",
        data={"name": "_dmarc.skarnmuseum.example", "text": "v=DMARC1; p=reject"},
    )
    page.get_by_role("button", name="Look up SPF and DMARC").click()
    expect(page.get_by_text("does not say who may send for it")).to_be_visible()
    expect(page.get_by_text(re.compile("shown to be its own by its signature and its envelope"))).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Sign no more")).to_be_visible()
