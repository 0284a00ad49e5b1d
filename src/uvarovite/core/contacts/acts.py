"""What is done to contacts: one row for each act, with its words. A change set keeps the act and its facts."""

from collections.abc import Mapping
from enum import StrEnum

from pydantic import BaseModel, ConfigDict

from uvarovite.core.contacts.fields import Field
from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import sentence


class Act(StrEnum):
    """What a change set did."""

    ADDED = "added"
    SIGNED_UP = "signed_up"
    FIELD_CHANGED = "field_changed"
    FIELD_SET = "field_set"
    FIELD_BLANKED = "field_blanked"
    TAGGED = "tagged"
    UNTAGGED = "untagged"
    PICKED = "picked"
    LEFT_OUT = "left_out"
    SUBSCRIBED = "subscribed"
    SUPPRESSED = "suppressed"
    DELETED = "deleted"
    ERASED = "erased"
    MERGED = "merged"
    MERGED_ERASED = "merged_erased"
    IMPORTED = "imported"
    FIELD_RETYPED = "field_retyped"
    FIELD_REDEFINED = "field_redefined"
    # What was done before acts were kept, in the words of then.
    TOLD = "told"


ACTS: Mapping[Act, str] = {
    Act.ADDED: "Added by hand",
    Act.SIGNED_UP: "Signed up by the form “{form}”",
    Act.FIELD_CHANGED: "{field} changed",
    Act.FIELD_SET: "{field} set to “{value}”",
    Act.FIELD_BLANKED: "{field} made blank",
    Act.TAGGED: "Tagged “{tag}”",
    Act.UNTAGGED: "Took the tag “{tag}” off",
    Act.PICKED: "Added to “{audience}”",
    Act.LEFT_OUT: "Left out of “{audience}”",
    Act.SUBSCRIBED: "Subscribed to {topic}",
    Act.SUPPRESSED: "Suppressed: {reason}",
    Act.DELETED: "Deleted",
    Act.ERASED: "Erased {people:person|people} for good",
    Act.MERGED: "Merged with {contacts}",
    Act.MERGED_ERASED: "Merged with somebody who was erased",
    Act.IMPORTED: "Imported {file}",
    Act.FIELD_RETYPED: "{field} changed from {before} to {after}",
    Act.FIELD_REDEFINED: "{field} changed",
    Act.TOLD: "{words}",
}
# These gave a field another definition, which is given back with the values.
REDEFINING = frozenset({Act.FIELD_RETYPED, Act.FIELD_REDEFINED})


class Redefinition(BaseModel):
    """A field's definition before and after a change of it."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    before: Field
    after: Field


REDEFINITION_FORM: StoredForm[Redefinition] = form_of(Redefinition)


def act_words(act: str, facts: Mapping[str, object]) -> str:
    """What was done, in words. An act of another version of ours is said by its code."""
    return sentence(ACTS[Act(act)], facts) if act in set(Act) else act.replace("_", " ")
