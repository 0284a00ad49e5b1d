"""What is noted of a response besides what happened and when."""

from pydantic import AliasChoices, BaseModel, ConfigDict, Field

from uvarovite.core.values import StoredForm, form_of


class ResponseDetail(BaseModel):
    """The program that came (its name, cut), the number of the link from 0, and for who left by which channel."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    agent: str | None = None
    link: int | None = None
    # It was called the way before.
    channel: str | None = Field(default=None, validation_alias=AliasChoices("channel", "way"))


DETAIL_FORM: StoredForm[ResponseDetail] = form_of(ResponseDetail, sparse=True)
