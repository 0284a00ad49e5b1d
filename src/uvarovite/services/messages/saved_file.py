"""A file that is handed out."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class SavedFile:
    """A file to be kept by whoever asked for it."""

    name: str
    media_type: str
    content: bytes
