"""What every kind of attachment has."""

from pydantic import Field

from uvarovite.core.messages.passages import Part


class AttachmentBase(Part):
    """`language` is the code of the words with which it goes, as the message names it; with None it goes with all of them."""

    id: str = Field(default="", max_length=40, pattern=r"^[\w-]*$")
    language: str | None = Field(default=None, max_length=20)

    def goes_with(self, language: str) -> bool:
        """Does it go with the words in a language?"""
        return self.language is None or self.language == language
