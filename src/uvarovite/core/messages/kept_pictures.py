"""Pictures that are kept here, known by their address, and those of a letter that go along with it instead of being fetched."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

_KEPT = re.compile(r"https?://[^\s@{}?#]+/p/([0-9a-f]{32})\.(?:png|jpg|gif)")


def picture_address(public_url: str, digest: str, kind: str) -> str:
    """Where readers fetch a picture that is kept here."""
    return f"{public_url.rstrip('/')}/p/{digest}.{kind}"


def kept_digest(address: str) -> str | None:
    """The digest of a picture that is kept here, by its address; None for one that is elsewhere, or that a field chooses."""
    found = _KEPT.fullmatch(address.strip())
    return found[1] if found else None


def content_id(address: str, digest: str) -> str:
    """What a picture that goes along is called within its message (RFC 2392), without brackets: a name that no other has."""
    # The address is an author's: what stands where a host would is not always one, and is no part of a header as it is.
    host = re.sub(r":\d*$", "", address.strip().split("/")[2].lower())
    labels = [label for label in re.sub(r"[^a-z0-9.-]", "-", host).split(".") if label.strip("-")]
    return f"{digest}@{'.'.join(labels) or 'pictures'}"


def embedded_addresses(stored: Mapping[str, Any]) -> list[str]:
    """The addresses of the pictures that go along, in words or in a message with all its languages, from the stored form."""
    return list(dict.fromkeys(address.strip() for address in _embedded(stored) if kept_digest(address)))


def embedded_digests(stored: Mapping[str, Any]) -> list[str]:
    """Their digests, each once."""
    return list(dict.fromkeys(digest for address in embedded_addresses(stored) if (digest := kept_digest(address))))


def _embedded(stored: Any) -> Iterator[str]:
    if isinstance(stored, Mapping):
        if stored.get("kind") == "picture" and stored.get("embedded"):
            yield stored["address"]
        for key, inner in stored.items():
            # What a version in another language was made from is never sent.
            if key != "basis":
                yield from _embedded(inner)
    elif isinstance(stored, list | tuple):
        for inner in stored:
            yield from _embedded(inner)
