"""Addresses of the web in plain text, without the signs that end a sentence."""

import re
from collections.abc import Iterator

from uvarovite.core.messages.passages import MOST_PASSAGES, Passage

_ADDRESS = re.compile(r"\bhttps?://[^\s<>\"\\]+", re.IGNORECASE)
_BEHIND = ".,;:!?'\"’”“»…"
_PAIRS = {")": "(", "]": "["}
_LONGEST = 2_000


def linked(text: str) -> tuple[Passage, ...]:
    """A text as passages: its addresses are links."""
    passages = list(_passages(text))
    # A text of nothing but addresses has more links than a message may.
    return tuple(passages) if len(passages) <= MOST_PASSAGES else (Passage(text=text),)


def _passages(text: str) -> Iterator[Passage]:
    at = 0
    for found in _ADDRESS.finditer(text):
        address = _bare(found[0].split("@{", 1)[0])
        if len(address) > _LONGEST or not re.search(r"://[^/?#]", address):
            continue
        if found.start() > at:
            yield Passage(text=text[at : found.start()])
        at = found.start() + len(address)
        yield Passage(text=address, link=address)
    if at < len(text):
        yield Passage(text=text[at:])


def _bare(found: str) -> str:
    """An address with what is behind it in a sentence taken off; a bracket stays that was opened in it."""
    address = found.rstrip(_BEHIND)
    while address[-1:] in _PAIRS and address.count(address[-1]) > address.count(_PAIRS[address[-1]]):
        address = address[:-1].rstrip(_BEHIND)
    return address
