"""Links of a message: where one may lead, and what stands for it in each delivery."""

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

from uvarovite.core.inlay import Note, Stretch, parse_inlay

# So many links a message has at most; the same link of the next record of a list has the number so much further on.
MOST_LINKS = 256
_ALLOWED = re.compile(r"(?:https?://[^\s/?#]|mailto:[^\s])", re.IGNORECASE)
_WHERE_TO = re.compile(r"[a-z]+:(?://)?[^/?#]*", re.IGNORECASE)


class Links(NamedTuple):
    """Where the links of one delivery lead. `click` gives the tracked form of link `number` to `address`.

    `unsubscribe` is "" where nobody in particular reads it. `copy` shows the message in a browser, `unseen` is a link that only
    machines find.
    """

    click: Callable[[int, str], str]
    unsubscribe: str
    pixel: str | None
    copy: str | None = None
    unseen: str | None = None


def plain_links() -> Links:
    """For previews: links as the author wrote them, no pixel, nothing that would leave a topic."""
    return Links(click=lambda number, address: address, unsubscribe="#leave", pixel=None)


@dataclass(frozen=True, slots=True, kw_only=True)
class MessageLink:
    """A link of a message: its number, from 0, and the id of the block that it stands in, "" where that has none.

    `address` is None where it holds something of each person's own.
    """

    number: int
    block: str
    address: str | None


def link_words(number: int) -> str:
    """A link for people: "link 3", or "link 3 of record 2" where it stands there for each record of a list."""
    further, place = divmod(number, MOST_LINKS)
    return f"link {place + 1}" + (f" of record {further + 1}" if further else "")


def constant_address(source: str) -> str | None:
    """Where a link leads that is the same for everybody; None where it holds something of each person's own."""
    nodes = [node for node in parse_inlay(source) if not isinstance(node, Note)]
    if not all(isinstance(node, Stretch) for node in nodes):
        return None
    return "".join(node.text for node in nodes if isinstance(node, Stretch)).strip()


def link_problem(source: str) -> str | None:
    """Why a link's text cannot be one, or None. Scheme and host must be the author's own, never a field's value."""
    if not source.strip():
        return "This leads nowhere yet: give it an address that begins with https://."
    if not _ALLOWED.match(source.strip()):
        return "A link begins with https://, http:// or mailto: and a name behind it."
    # Where a link leads is said before its path (RFC 3986, section 3.2), of a mailto: before what it fills in.
    if (where := _WHERE_TO.match(source.strip())) and "@{" in where[0]:
        return "Where a link leads cannot come from a person's record: begin with your own address, and put the field behind it."
    if re.search(r"[\s\"<>\\]", re.sub(r"@\{[^}]*\}", "", source.strip())):
        return "A link holds no blanks, quotes, backslashes or angle brackets."
    return None


def picture_problem(source: str) -> str | None:
    """Why a text is no address of a picture, or None: it is fetched by readers, from the author's own host."""
    if not source.strip():
        return "This picture has no address yet: give it one that begins with https://."
    if source.strip().lower().startswith("mailto:"):
        return "A picture's address begins with https:// or http://."
    return link_problem(source)
