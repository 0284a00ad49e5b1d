"""The pictures that go along with a letter, as parts of its message (RFC 2387, RFC 2392), encoded once for all readers."""

from base64 import encodebytes
from collections.abc import Iterable, Mapping

from uvarovite.core.messages.attachments import KINDS, KeptFile
from uvarovite.core.messages.kept_pictures import content_id, embedded_addresses, kept_digest


class EmbeddedPictures:
    """Those of some words. `files` has what is kept of each, by digest; one that is not there is fetched as any other.

    `ids` are their content ids, by address.
    """

    def __init__(self, words: Mapping[str, object], files: Mapping[str, KeptFile]) -> None:
        self.ids: dict[str, str] = {}
        self._parts: dict[str, str] = {}
        for address in embedded_addresses(words):
            digest = kept_digest(address) or ""
            if (kept := files.get(digest)) is not None:
                called = self.ids[address] = content_id(address, digest)
                self._parts[called] = _part(called, kept)

    def parts(self, shown: Iterable[str]) -> list[str]:
        """The parts of those that a letter shows, without boundaries around them."""
        return [self._parts[one] for one in shown]


def _part(called: str, kept: KeptFile) -> str:
    body = encodebytes(kept.content).decode("ascii").replace("\n", "\r\n")
    return (
        f"Content-Type: {KINDS[kept.kind].media_type}\r\nContent-Transfer-Encoding: base64\r\n"
        f'Content-ID: <{called}>\r\nContent-Disposition: inline; filename="picture.{kept.kind}"\r\n\r\n{body}'
    )
