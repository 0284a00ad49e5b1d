"""Links of a message, numbered in the order of their blocks."""

import re
from collections.abc import Callable
from dataclasses import dataclass

from uvarovite.core.contacts import Record
from uvarovite.core.inlay import MergeContext, Template, plain, url_part

_ALLOWED = re.compile(r"(?:https?://[^\s/?#]|mailto:[^\s])", re.IGNORECASE)
_WHERE_TO = re.compile(r"[a-z]+:(?://)?[^/?#]*", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Links:
    """Where the links of one delivery lead. `click` gives the tracked form of link `number` to `address`."""

    click: Callable[[int, str], str]
    unsubscribe: str
    pixel: str | None


def plain_links() -> Links:
    """For previews: links as the author wrote them, no pixel, nothing that would leave a topic."""
    return Links(click=lambda number, address: address, unsubscribe="#leave", pixel=None)


def link_address(template: Template, record: Record, context: MergeContext) -> str:
    """The address of a link for one person: the author's text as it is, the person's values percent-encoded."""
    return template.render(record, context, url_part, plain).strip()


def link_problem(source: str) -> str | None:
    """Why a link's text cannot be one, or None. Scheme and host must be the author's own, never a field's value."""
    if not source.strip():
        return "This button leads nowhere yet: give it an address that begins with https://."
    if not _ALLOWED.match(source.strip()):
        return "A link begins with https://, http:// or mailto: and a name behind it."
    # Where a link leads is said before its path (RFC 3986, section 3.2), of a mailto: before what it fills in.
    if (where := _WHERE_TO.match(source.strip())) and "@{" in where[0]:
        return "Where a link leads cannot come from a person's record: begin with your own address, and put the field behind it."
    if re.search(r"[\s\"<>\\]", re.sub(r"@\{[^}]*\}", "", source.strip())):
        return "A link holds no blanks, quotes, backslashes or angle brackets."
    return None
