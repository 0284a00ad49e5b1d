"""What is noted of a response besides what happened and when."""

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from uvarovite.core.values import StoredForm, form_of


class ResponseDetail(BaseModel):
    """The program that came (its name, cut), the number of the link from 0, or that it was the one that nobody sees, and for who
    left by which channel.

    Of what came by mail the number that it is kept under, and of a failure what it means, its status, and what was said; one that
    `counts` brings the address nearer to the suppression list.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    agent: str | None = None
    link: int | None = None
    unseen: bool = False
    # It was called the way before.
    channel: str | None = Field(default=None, validation_alias=AliasChoices("channel", "way"))
    mail: int | None = None
    meaning: str | None = None
    status: str | None = None
    said: str | None = None
    counts: bool = False


_CHANNELS = {
    "one_click": "with one click in the mail program",
    "mail": "by mail",
    "preferences": "on their preference page",
}


def leaving_words(channel: str | None) -> str:
    """How somebody left, in words."""
    return _CHANNELS.get(channel or "", "by the link in the message")


DETAIL_FORM: StoredForm[ResponseDetail] = form_of(ResponseDetail, sparse=True)
