"""Rendered letters, looked at by judges that are not ours: axe, and Chromium's own layout, by day and in the dark."""

import pytest
from playwright.sync_api import Browser

from tests.browser.test_every_view import AXE
from tests.core.test_blocks import EVERYTHING, FOOTER, OWNER, PLAIN_LINKS
from tests.core.test_inlay import context
from tests.support.fields import FIELDS
from uvarovite.core.messages import LetterMaker, MessageContent
from uvarovite.demo.starters import STARTERS
from uvarovite.demo.starters_in_other_languages import in_all_languages
from uvarovite.demo.story import MESSAGE, founding

MUSEUM = {**FIELDS, **{field.key: field for field in founding(smtp_host="", smtp_port=0).fields}}
LETTERS: dict[str, tuple[MessageContent, str]] = {
    "all kinds of blocks": (EVERYTHING, "en"),
    "the demo's": (MESSAGE, "en"),
    **{f"{name}, {language}": (in_all_languages(words), language) for name, words in STARTERS.items() for language in ("en", "pl")},
}  # fmt: skip


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_axe_finds_nothing_in_letters_and_nothing_is_wider_than_a_telephone(browser: Browser, scheme: str) -> None:
    page = browser.new_page(color_scheme=scheme)  # type: ignore[arg-type]
    found: list[str] = []
    for name, (content, language) in LETTERS.items():
        record = {**OWNER, "language": language}
        html = LetterMaker(content, MUSEUM).render(record, context(), PLAIN_LINKS, FOOTER).html
        for width in (360, 600, 1280):
            page.set_viewport_size({"width": width, "height": 800})
            page.set_content(html)
            wide = page.evaluate("document.documentElement.scrollWidth")
            if wide > width:
                found.append(f"{name}: {wide} pixels at {width}")
        page.evaluate(AXE)
        faults = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
        # A letter is no page: it has no landmarks, and its heading need not be the first.
        found += [
            f"{name}: {one['id']} {one['nodes'][0]['html'][:80]}"
            for one in faults
            if one["id"] not in ("region", "landmark-one-main", "page-has-heading-one")
        ]
    assert found == []
    page.close()
