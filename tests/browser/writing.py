"""What tests of writing look at: the sheet and the subject of a message, and its words as they are saved."""

import re

from playwright.sync_api import Locator, Page, expect

from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent
from uvarovite.services.messages.messages import get_message
from uvarovite.store.database import Database


def words(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Words of the message")


def subject(page: Page) -> Locator:
    return page.get_by_role("textbox", name="Subject")


def saved(page: Page, database: Database) -> MessageContent:
    """The words as they are saved now."""
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_text(re.compile("is saved as version"))).to_be_visible()
    expect(page).to_have_url(re.compile(r"/messages/\d+$"))
    return get_message(database, SYSTEM, int(page.url.rsplit("/", 1)[1])).content


def sources(content: MessageContent) -> list[str]:
    """The text of each block of words."""
    return ["".join(one.text for one in block.text) for block in content.blocks if hasattr(block, "text")]
