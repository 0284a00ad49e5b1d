"""A page of somebody who is signed in."""

import pytest
from playwright.sync_api import Browser, Page

from tests.support.processes import Installation
from tests.support.web import EMAIL, PASSWORD


def signed_in(
    browser: Browser, world: Installation, email: str = EMAIL, password: str = PASSWORD, **context: object
) -> Page:
    """A page of the user with this address; an error on it fails the test."""
    page = browser.new_context(locale="en-GB", **context).new_page()  # type: ignore[arg-type]
    page.set_default_timeout(20_000)
    page.on("pageerror", lambda fault: pytest.fail(f"an error on the page: {fault}"))
    answer = page.request.post(f"{world.web_url}/api/session", data={"email": email, "password": password})
    assert answer.ok
    return page
