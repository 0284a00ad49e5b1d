"""A postal address in lines: missing parts are closed up, and the postcode stands where its country writes it."""

from collections.abc import Mapping

# The keys of fields that make an address, in the order in which a form asks for them.
POSTAL_FIELDS = ("street", "postcode", "town", "region", "country")
# Where the postcode stands behind the town, on its line or on one of its own (UPU S42, templates by country).
_BEHIND = frozenset({"US", "CA", "AU", "NZ", "IN"})
_OWN_LINE = frozenset({"GB", "IE"})


def postal_lines(parts: Mapping[str, str], territory: str | None) -> list[str]:
    """The lines of an address, without empty ones; `territory` is the country that it is written in (ISO 3166-1)."""
    told = {key: " ".join(parts.get(key, "").split()) for key in ("postcode", "town", "region", "country")}
    street = [" ".join(line.split()) for line in parts.get("street", "").splitlines()]
    if territory in _OWN_LINE:
        lines = [told["town"], told["region"], told["postcode"]]
    elif territory in _BEHIND:
        place = ", ".join(filter(None, [told["town"], told["region"]]))
        lines = [" ".join(filter(None, [place, told["postcode"]]))]
    else:
        lines = [" ".join(filter(None, [told["postcode"], told["town"]])), told["region"]]
    return [line for line in (*street, *lines, told["country"]) if line]
