"""Requests about what came back."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Id
from uvarovite.services.responses.answering import LONGEST_ANSWER
from uvarovite.services.responses.replies import LONGEST_NOTE


class AssignBody(BaseModel):
    """Who looks after it; None: nobody."""

    user_id: Id | None


class DoneBody(BaseModel):
    """Is it done?"""

    done: bool


class NoteBody(BaseModel):
    """A note for colleagues."""

    text: str = Field(max_length=LONGEST_NOTE)


class AnswerBody(BaseModel):
    """A short answer."""

    words: str = Field(max_length=LONGEST_ANSWER)


class LetterWithClicks(BaseModel):
    """A message with a count beside each link."""

    html: str


class PublicCopyBody(BaseModel):
    """May anybody read it?"""

    allowed: bool
