"""Requests about messages."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Count, Id
from uvarovite.core.messages import MessageContent


class MessageSave(BaseModel):
    """A message as edited; `revision` is the one that was on screen."""

    name: str = Field(max_length=200)
    content: MessageContent
    revision: Count | None = None


class MessageNew(MessageSave):
    """A new message; with `shared` it begins as a shared block."""

    shared: bool | None = None


class MessageShelf(BaseModel):
    """Where a message stands among the others; what is not told stays."""

    put_away: bool | None = None
    is_starter: bool | None = None
    is_shared: bool | None = None


class LensPersonAsk(BaseModel):
    """Whom to look at: the cleared person at `contact_id` (step 0), behind (1) or before (-1)."""

    content: MessageContent
    criteria: str = Field(default="everyone", max_length=20_000)
    audience_id: Id | None = None
    campaign_id: Id | None = None
    topic_id: Id | None = None
    contact_id: Id = 0
    step: int = Field(default=0, ge=-1, le=1)
    # Only those who read a fallback.
    fallbacks: bool = False


class LensAsk(BaseModel):
    """Whose letter is looked at; that of nobody, who is number 0, says what is wrong with the words."""

    content: MessageContent
    contact_id: Id = 0
    topic_id: Id | None = None
    sender_id: Id | None = None


class LetterAsk(BaseModel):
    """The letter of a person, of words as they are on screen."""

    content: MessageContent
    contact_id: Id
    topic_id: Id | None = None
    sender_id: Id | None = None


class InlayAsk(BaseModel):
    """One inlay as text. With `variable` it stands in what is repeated for each record of the list `listed`."""

    source: str = Field(max_length=5_000)
    variable: str = Field(default="", max_length=63)
    listed: str = Field(default="", max_length=63)
    contact_id: Id = 0
    language: str = Field(default="", max_length=20)


class CommentNew(BaseModel):
    """What to say of the words at a block, "" for all of them; `quote` is what stands there."""

    language: str = Field(default="", max_length=20)
    block_id: str = Field(default="", max_length=40)
    quote: str = Field(default="", max_length=300)
    words: str = Field(max_length=4_000)


class CommentClose(BaseModel):
    """Is it done?"""

    done: bool


class TestListSave(BaseModel):
    """Addresses under a name; a list that is called so already has these from now on."""

    name: str = Field(max_length=200)
    addresses: list[str] = Field(max_length=100)


class TestAsk(BaseModel):
    """Whose message to send, and to whom; to the one who asks, where no address is given. `message_id` is whose words
    they are, saved or not. `marked` says in the subject that it is a test.
    """

    content: MessageContent
    message_id: Id | None = None
    contact_id: Id
    marked: bool = False
    to_address: str | None = Field(default=None, max_length=320)
    topic_id: Id | None = None
    sender_id: Id | None = None
    pool_id: Id | None = None
