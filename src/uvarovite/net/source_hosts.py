"""Which databases may be a live source: on hosts that the administrator has allowed, and never the application's own.

A name is looked up once, and what was found is what is connected to: a name that means something else a moment later
leads nowhere. The application's own server is known by its address and port, whatever it is called.
"""

import ipaddress
import socket
from dataclasses import dataclass, replace

import psycopg

from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import SourceAccess, SourceKind, host_problem


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceRules:
    """`allowed` are hosts, by name or address, each perhaps with a port (`db.example:5432`); `own` is the URL of the
    application's database.
    """

    allowed: tuple[str, ...]
    own: str


def pinned(access: SourceAccess, rules: SourceRules) -> SourceAccess:
    """The access with the address that is connected to. Raises SourceFault: not_allowed, own, unreachable."""
    if access.kind is SourceKind.SQLITE:
        return access
    if problem := host_problem(access.host):
        raise problem
    wanted = {access.host.lower(), f"{access.host.lower()}:{access.port}"}
    if not wanted & {one.strip().lower() for one in rules.allowed}:
        raise SourceFault("not_allowed", host=access.host)
    found = _addresses(access.host, access.port)
    if access.port == _own_port(rules.own) and found & _own_addresses(rules.own):
        raise SourceFault("own")
    return replace(access, address=sorted(found)[0])


def _addresses(host: str, port: int) -> set[str]:
    try:
        told = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as fault:
        raise SourceFault("unreachable", how="no_host", host=host) from fault
    return {_plain(str(one[4][0])) for one in told}


def _plain(address: str) -> str:
    """One form for an address: all that mean this machine are one, and IPv4 within IPv6 is IPv4."""
    found = ipaddress.ip_address(address.partition("%")[0])
    if isinstance(found, ipaddress.IPv6Address) and found.ipv4_mapped:
        found = found.ipv4_mapped
    return "127.0.0.1" if found.is_loopback or found.is_unspecified else str(found)


def _own_port(url: str) -> int:
    return int(psycopg.conninfo.conninfo_to_dict(url).get("port") or 5432)


def _own_addresses(url: str) -> set[str]:
    """Those of the application's server, and of this machine where it is the server's."""
    own = _addresses(str(psycopg.conninfo.conninfo_to_dict(url).get("host") or "127.0.0.1"), _own_port(url))
    if "127.0.0.1" in own:
        own |= _addresses(socket.gethostname(), 0) if _is_known(socket.gethostname()) else set()
    return own


def _is_known(host: str) -> bool:
    try:
        socket.getaddrinfo(host, 0)
    except OSError:
        return False
    return True
