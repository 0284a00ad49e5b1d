"""Looking names up (RFC 1035): which hosts take a domain's mail, and what is published at a name."""

import dns.asyncresolver
import dns.exception
import dns.name
import dns.resolver

from uvarovite.core.contacts.verification import NameAnswer

# Until an answer, over all tries and servers.
_PATIENCE_SECONDS = 8.0


def _resolver(server: str) -> dns.asyncresolver.Resolver:
    """A resolver at `host:port`, or the machine's own when that is empty. Raises ValueError."""
    if not server:
        return dns.asyncresolver.Resolver()
    host, _, port = server.rpartition(":")
    made = dns.asyncresolver.Resolver(configure=False)
    made.nameservers, made.port = [host], int(port)
    return made


class NameLookUp:
    """Asks name servers; calling it gives their answer for a domain. It never raises: silence is an answer as well."""

    def __init__(self, server: str = "", *, patience_seconds: float = _PATIENCE_SECONDS) -> None:
        self._resolver = _resolver(server)
        self._patience_seconds = patience_seconds

    async def __call__(self, domain: str) -> NameAnswer:
        try:
            name = dns.name.from_text(domain, idna_codec=dns.name.IDNA_2008)
        except dns.exception.DNSException:
            return NameAnswer(answered=True, exists=False)
        try:
            found = await self._resolver.resolve(name, "MX", lifetime=self._patience_seconds)
        except dns.resolver.NXDOMAIN:
            return NameAnswer(answered=True, exists=False)
        except dns.resolver.NoAnswer:
            return await self._addresses(name)
        except (dns.exception.DNSException, OSError):
            return NameAnswer(answered=False)
        best = sorted(found, key=lambda one: (one.preference, one.exchange))
        return NameAnswer(answered=True, mail_hosts=[one.exchange.to_text(omit_final_dot=True) for one in best])

    async def texts(self, name: str) -> list[str] | None:
        """What stands at a name as text (TXT), each record whole; None without an answer."""
        try:
            found = await self._resolver.resolve(
                dns.name.from_text(name, idna_codec=dns.name.IDNA_2008), "TXT", lifetime=self._patience_seconds
            )
        except (dns.resolver.NXDOMAIN, dns.resolver.NoAnswer):
            return []
        except (dns.exception.DNSException, OSError):
            return None
        return [b"".join(one.strings).decode("utf-8", errors="replace") for one in found]

    async def _addresses(self, name: dns.name.Name) -> NameAnswer:
        for kind in ("A", "AAAA"):
            try:
                await self._resolver.resolve(name, kind, lifetime=self._patience_seconds)
            except dns.resolver.NoAnswer:
                continue
            except (dns.exception.DNSException, OSError):
                return NameAnswer(answered=False)
            return NameAnswer(answered=True, has_address=True)
        return NameAnswer(answered=True)
