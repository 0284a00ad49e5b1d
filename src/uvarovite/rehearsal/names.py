"""The rehearsal's name server (RFC 1035, over UDP): the invented domains, and the few that are not there."""

import asyncio
from typing import cast

import dns.exception
import dns.flags
import dns.message
import dns.name
import dns.rcode
import dns.rdatatype
import dns.rrset

# Mistyped domains that nobody has registered, one that was given up, one that takes no mail and says so, one that
# has an address and no mail host, and one that has neither.
NOWHERE = frozenset({"quartzmial.example", "slatepots.example", "fjordent.example", "gone.example"})
TAKES_NO_MAIL = frozenset({"nomail.example"})
ADDRESS_ONLY = frozenset({"tinmail.example"})
BARE = frozenset({"bare.example"})
_SECONDS = 300


# What was published as text, by name.
Published = dict[str, str]


def answer(raw: bytes, published: Published | None = None) -> bytes | None:
    """The reply to a query in wire form; None for what is no query."""
    try:
        query = dns.message.from_wire(raw)
    except dns.exception.DNSException:
        return None
    if query.flags & dns.flags.QR or len(query.question) != 1:
        return None
    reply = dns.message.make_response(query)
    reply.flags |= dns.flags.AA | dns.flags.RA
    asked = query.question[0]
    domain = asked.name.to_text(omit_final_dot=True).lower()
    if asked.rdtype == dns.rdatatype.TXT and domain in (published or {}):
        text = (published or {})[domain]
        # A string of the DNS holds 255 bytes; a longer text stands in several (RFC 1035 section 3.3.14).
        parts = [text[place : place + 255] for place in range(0, len(text), 255)]
        told = " ".join(f'"{part}"' for part in parts)
        reply.answer.append(dns.rrset.from_text(asked.name, _SECONDS, "IN", "TXT", told))
    elif domain in NOWHERE or not domain.endswith(".example"):
        reply.set_rcode(dns.rcode.NXDOMAIN)
    elif asked.rdtype == dns.rdatatype.MX and domain not in ADDRESS_ONLY | BARE:
        host = "0 ." if domain in TAKES_NO_MAIL else f"10 mail.{domain}."
        reply.answer.append(dns.rrset.from_text(asked.name, _SECONDS, "IN", "MX", host))
    elif asked.rdtype == dns.rdatatype.A and domain not in TAKES_NO_MAIL | BARE:
        # An address for documentation (RFC 5737): nothing is there.
        reply.answer.append(dns.rrset.from_text(asked.name, _SECONDS, "IN", "A", "192.0.2.25"))
    return reply.to_wire()


class _Server(asyncio.DatagramProtocol):
    def __init__(self, published: Published) -> None:
        self._published = published

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        # asyncio's own datagram transport is no subclass of the class that describes it.
        self._transport = cast(asyncio.DatagramTransport, transport)

    def datagram_received(self, data: bytes, addr: tuple[str, int]) -> None:
        reply = answer(data, self._published)
        if reply is not None:
            self._transport.sendto(reply, addr)


async def serve_names(host: str, port: int, published: Published | None = None) -> asyncio.DatagramTransport:
    """Listen. What is in `published`, now or later, is told as text. Raises OSError when the port is taken."""
    transport, _ = await asyncio.get_running_loop().create_datagram_endpoint(
        lambda: _Server({} if published is None else published), local_addr=(host, port)
    )
    return transport
