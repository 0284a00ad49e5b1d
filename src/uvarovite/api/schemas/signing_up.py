"""Requests about sign-up forms."""

from pydantic import BaseModel, Field

from uvarovite.api.schemas.values import Id
from uvarovite.core.responses.signing_up import FormWords
from uvarovite.services.responses.sign_up_forms import FormChange


class FormSave(BaseModel):
    """How a form should be; `revision` is the one that stood on screen."""

    name: str = Field(max_length=200)
    title: str = Field(max_length=200)
    intro: str = Field(default="", max_length=4_000)
    wording: str = Field(max_length=2_000)
    topics: list[Id] = Field(max_length=100)
    asks: list[str] = Field(max_length=50)
    language: str = Field(max_length=10)
    sender_id: Id
    closed: bool = False
    others: list[FormWords] = Field(default_factory=list, max_length=20)
    welcome_message_id: Id | None = None
    revision: int | None = None

    def change(self) -> FormChange:
        """The same for the service."""
        told = self.model_dump(exclude={"revision", "others"})
        return FormChange(**told, others=self.others)
