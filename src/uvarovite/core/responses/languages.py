"""Which of several languages somebody reads, by what their browser says."""

from collections.abc import Collection

# A browser says a handful; whatever says more is none.
_MOST = 20


def preferred(accept: str | None, among: Collection[str]) -> str | None:
    """The one among some codes that an Accept-Language header likes best (RFC 9110 section 12.5.4); None for none of them.

    A longer tag is read as its language: "de-AT" as "de". Of two that are liked alike the first.
    """
    liked: list[tuple[float, int, str]] = []
    for place, told in enumerate((accept or "").split(",")[:_MOST]):
        tag, _, weight = told.partition(";")
        code, quality = tag.strip().lower().split("-")[0], _quality(weight)
        if code in among and quality > 0:
            liked.append((-quality, place, code))
    return min(liked)[2] if liked else None


def _quality(weight: str) -> float:
    name, _, value = weight.strip().partition("=")
    if name.strip().lower() != "q":
        return 1.0
    try:
        return min(max(float(value), 0.0), 1.0)
    except ValueError:
        return 0.0
