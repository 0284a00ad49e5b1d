"""The commands that carry something of ours, as bytes. Nothing that is put into one can end it or begin another."""

import re
from base64 import b64encode

from uvarovite.core.delivery.smtp.capabilities import Capabilities

# Nearly all addresses (RFC 5321 section 4.1.2, without quoting); for the others: control characters, lone surrogates; and what would end a path, unless a quoted local part holds it.
_PLAIN = re.compile(r"[A-Za-z0-9.!#$%&'*+/=?^_`{|}~-]+@[A-Za-z0-9.-]+")
_NEVER = re.compile(r"[\x00-\x1f\x7f-\x9f\ud800-\udfff]")
_PATH = re.compile(r'(?:"[^"\\]*(?:\\.[^"\\]*)*"|[^\s<>"]+)@[^\s<>@"]+')


class CommandFault(Exception):
    """What cannot be said in a command. Whose doing: whoever made it. Trying again is of no use."""


def path(address: str) -> bytes:
    """An address between angle brackets. Raises CommandFault."""
    if not _PLAIN.fullmatch(address) and (_NEVER.search(address) or not _PATH.fullmatch(address)):
        raise CommandFault(f"no address for an envelope: {address!r}")
    return f"<{address}>".encode()


def hello(name: str, *, extended: bool = True) -> bytes:
    """EHLO, or HELO for a server that knows no better. Raises CommandFault."""
    if not re.fullmatch(r"[A-Za-z0-9.\-:\[\]]+", name):
        raise CommandFault(f"no name to greet with: {name!r}")
    return f"{'EHLO' if extended else 'HELO'} {name}\r\n".encode()


def mail_from(sender: bytes, size: int, capabilities: Capabilities, *, utf8: bool, eight_bit: bool) -> bytes:
    """MAIL from a path, with what the message needs (RFC 1870, 6152, 6531)."""
    parts = [b"MAIL FROM:" + sender]
    if capabilities.takes_size:
        parts.append(b"SIZE=%d" % size)
    if eight_bit:
        parts.append(b"BODY=8BITMIME")
    if utf8:
        parts.append(b"SMTPUTF8")
    return b" ".join(parts) + b"\r\n"


def plain(username: str, password: str) -> bytes:
    """AUTH PLAIN with its first and only answer (RFC 4616, RFC 4954 section 4)."""
    return b"AUTH PLAIN " + b64encode(f"\0{username}\0{password}".encode()) + b"\r\n"


def answered(secret: str) -> bytes:
    """An answer to a challenge."""
    return b64encode(secret.encode()) + b"\r\n"
