"""The envelope of a message that lies in a mailbox, by what the server that put it there wrote into its headers."""

from email.parser import BytesHeaderParser
from email.utils import getaddresses

# Where servers note whom a message was for, most telling first; else whom it says it is for.
_FOR = ("delivered-to", "x-original-to", "envelope-to", "x-envelope-to", "to", "cc")
_LONGEST_HEAD = 100_000
_MOST_RECIPIENTS = 50


def envelope_of(raw: bytes) -> tuple[str, list[str]]:
    """(sender, recipients); the sender is "" for the null reverse-path, by Return-Path (RFC 5321 section 4.4), else by From."""
    head = raw[:_LONGEST_HEAD].split(b"\r\n\r\n", 1)[0].split(b"\n\n", 1)[0]
    message = BytesHeaderParser().parsebytes(head + b"\r\n\r\n")

    def addresses(name: str) -> list[str]:
        told = [str(value) for value in message.get_all(name, [])]
        return [address for _, address in getaddresses(told) if "@" in address]

    recipients = dict.fromkeys(address for name in _FOR for address in addresses(name))
    returned = message.get("return-path")
    sender = str(returned).strip(" <>\r\n") if returned is not None else next(iter(addresses("from")), "")
    return sender, list(recipients)[:_MOST_RECIPIENTS]
