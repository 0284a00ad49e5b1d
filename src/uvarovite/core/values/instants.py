"""Instants are aware datetimes; a naive one is a broken promise, never guessed at."""

from datetime import datetime


def require_aware(instant: datetime) -> datetime:
    """Return the instant unchanged. Raises ValueError when it carries no time zone."""
    if instant.tzinfo is None:
        raise ValueError("an instant needs a time zone")
    return instant
