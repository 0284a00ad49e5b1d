"""Replies of an SMTP server (RFC 5321 section 4.2): bytes in, replies out, and never more kept than a reply may be long."""

import re
from functools import lru_cache
from typing import NamedTuple

# RFC 5321 section 4.5.3.1.5 allows 512 octets a line; servers with long explanations exceed it.
LONGEST_LINE = 4_096
MOST_LINES = 128

_LINE = re.compile(rb"([2-5]\d\d)(?:([ -])(.*))?", re.DOTALL)


class ReplyFault(Exception):
    """What came is no reply of SMTP. Whose doing: the server's. The conversation is over."""


class Reply(NamedTuple):
    """One reply, of all its lines. `raw` holds what stands behind the code of each, as it came."""

    code: int
    raw: tuple[bytes, ...]

    @property
    def lines(self) -> tuple[str, ...]:
        """Its lines in characters; what is no UTF-8 is held as lone surrogates."""
        return tuple(line.decode("utf-8", "surrogateescape") for line in self.raw)

    @property
    def text(self) -> str:
        """What it says, its lines one after another."""
        return b"\n".join(self.raw).decode("utf-8", "surrogateescape")

    @property
    def said(self) -> str:
        """Code and text, as one quotes it."""
        return f"{self.code} {' '.join(self.lines)}".rstrip()

    @property
    def refuses(self) -> bool:
        """Does it refuse, for now or for good?"""
        return self.code >= 400


class ReplyReader:
    """`feed` it what arrives."""

    def __init__(self) -> None:
        self._rest = b""
        self._code = 0
        self._lines: list[bytes] = []

    @property
    def holds_anything(self) -> bool:
        """Has the beginning of a reply arrived that is not whole yet?"""
        return bool(self._rest or self._lines)

    def feed(self, data: bytes) -> list[Reply]:
        """The replies that are whole now. Raises ReplyFault."""
        lines = (self._rest + data).split(b"\n")
        self._rest = lines.pop()
        if len(self._rest) > LONGEST_LINE:
            raise ReplyFault("a reply's line that does not end")
        replies: list[Reply] = []
        for line in lines:
            reply, last = _read_line(line)
            if not last or self._lines:
                self._go_on(reply)
                if not last:
                    continue
                reply = Reply(self._code, tuple(self._lines))
                self._lines = []
            replies.append(reply)
        return replies

    def _go_on(self, line: Reply) -> None:
        if self._lines and line.code != self._code:
            raise ReplyFault(f"a reply of {self._code} that goes on as {line.code}")
        if len(self._lines) == MOST_LINES:
            raise ReplyFault(f"a reply of more than {MOST_LINES} lines")
        self._code = line.code
        self._lines.extend(line.raw)


# A relay says the same few things all day.
@lru_cache(maxsize=256)
def _read_line(line: bytes) -> tuple[Reply, bool]:
    """A line as a reply of its own, and whether it is the last of one."""
    found = _LINE.fullmatch(line.removesuffix(b"\r")) if len(line) <= LONGEST_LINE else None
    if found is None:
        raise ReplyFault(line[:200].decode("utf-8", "surrogateescape"))
    return Reply(int(found[1]), (found[3] or b"",)), found[2] != b"-"
