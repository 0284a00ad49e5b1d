"""What a person wrote themselves in an answer, and whether that is a request to leave and nothing else."""

import re

from uvarovite.core.responses.inbound.phrases import CLOSINGS, COURTESIES, QUOTES, REQUESTS

# Longer than any request to leave; whoever writes more writes a letter.
_LONGEST_REQUEST = 400
_PREFIXES = re.compile(r"(?i)^\s*((re|aw|wg|antw|fwd?|fw|tr|odp|pd|rv|sv|r)\s*(\[\d+\])?\s*:\s*)+")
_MARKS = re.compile(r"[^\w\s]|_")


def own_words(text: str) -> str:
    """A text without what it quotes and without a signature (the line "-- ", RFC 3676 section 4.3)."""
    found = QUOTES.search(text)
    kept: list[str] = []
    for line in (text[: found.start()] if found else text).splitlines():
        if line.rstrip() == "--":
            break
        if not line.lstrip().startswith(">"):
            kept.append(line.rstrip())
    return "\n".join(kept).strip()


def quoted_words(text: str) -> str:
    """What a text quotes: the rest of it, but for a signature."""
    found = QUOTES.search(text)
    before = text[: found.start()] if found else text
    kept = [line.strip() for line in before.splitlines() if line.lstrip().startswith(">")]
    return "\n".join([*kept, text[found.start() :].strip()] if found else kept).strip()


def bare_subject(subject: str) -> str:
    """A subject without the marks of an answer before it."""
    return _PREFIXES.sub("", subject).strip()


def asks_to_leave(text: str) -> bool:
    """Is a text, all of it, a request to leave? Greetings, thanks and a name below do not matter; any other sentence does."""
    if not text.strip() or len(text) > _LONGEST_REQUEST:
        return False
    asked = closed = False
    for line in re.split(r"[\r\n]+|(?<=[.!?;])\s+", text):
        words = _plain(line)
        if not words:
            continue
        if any(request.fullmatch(words) for request in REQUESTS):
            asked = True
        elif COURTESIES.fullmatch(words):
            closed = closed or CLOSINGS.fullmatch(words) is not None
        elif not ((closed or asked) and _is_name(line)):
            return False
    return asked


def _plain(line: str) -> str:
    return " ".join(_MARKS.sub(" ", line.replace("\N{RIGHT SINGLE QUOTATION MARK}", "'")).lower().split())


def _is_name(line: str) -> bool:
    """Could it be the name below? A few words that begin with capitals."""
    words = line.strip(" ,.-–").split()
    return 0 < len(words) <= 4 and all(word[:1].isupper() or _PARTICLE.fullmatch(word) for word in words)


_PARTICLE = re.compile(r"von|van|de|der|den|du|da|di|la|le|del|zu|zur|ten|ter|y|i|und|and|et|[dlo]['’]\w+")
