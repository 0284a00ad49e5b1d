"""Why something was done, in somebody's own words: asked for wherever it becomes evidence."""

from uvarovite.services.errors import BadInput

# "yes" and "ok" are no reasons.
LEAST_REASON = 5


def require_reason(text: str, code: str, message: str) -> str:
    """The text with runs of blanks made one. Raises BadInput with the message when it says nothing."""
    text = " ".join(text.split())
    if len(text) < LEAST_REASON:
        raise BadInput(code, message)
    return text


def require_legal_basis(text: str) -> str:
    """On what legal basis people opted in. Raises BadInput."""
    return require_reason(
        text, "legal_basis", "Say how these people opted in, such as “signed the list at the open day”."
    )
