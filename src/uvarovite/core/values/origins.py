"""Where a request comes from, as limits count it."""

from ipaddress import IPv6Address, IPv6Network, ip_address


def origin_key(host: str | None) -> str:
    """An address as it is; of IPv6 the network of 64 bits that one subscriber has (RFC 6177), and IPv4 as it is within it."""
    try:
        address = ip_address(host or "")
    except ValueError:
        return "unknown"
    if not isinstance(address, IPv6Address):
        return str(address)
    if address.ipv4_mapped:
        return str(address.ipv4_mapped)
    return str(IPv6Network((int(address), 64), strict=False))
