"""All tables, so that one import knows the whole schema."""

from sqlmodel import SQLModel

from uvarovite.store.tables.accounts import LoginAttempt, LoginLink, User, UserSession
from uvarovite.store.tables.audiences import Audience
from uvarovite.store.tables.campaigns import Campaign, Identity, Organisation, Run, Sender
from uvarovite.store.tables.consent import Consent, ConsentEvent, Suppression, Topic
from uvarovite.store.tables.contacts import (
    ChangeSet,
    Contact,
    ContactChange,
    ContactField,
    ContactNote,
    ContactSearch,
    ContactTag,
    ContactView,
    Tag,
)
from uvarovite.store.tables.delivery import Attempt, Batch, Delivery, SendPermit
from uvarovite.store.tables.imports import ColumnMemory, Import, ImportPiece, ImportProgress, ImportRefusal, ImportState
from uvarovite.store.tables.messages import Message, MessageVersion
from uvarovite.store.tables.responses import ResponseEvent

metadata = SQLModel.metadata

__all__ = [
    "Attempt",
    "Audience",
    "Batch",
    "Campaign",
    "ChangeSet",
    "ColumnMemory",
    "Consent",
    "ConsentEvent",
    "Contact",
    "ContactChange",
    "ContactField",
    "ContactNote",
    "ContactSearch",
    "ContactTag",
    "ContactView",
    "Delivery",
    "Identity",
    "Import",
    "ImportPiece",
    "ImportProgress",
    "ImportRefusal",
    "ImportState",
    "LoginAttempt",
    "LoginLink",
    "Message",
    "MessageVersion",
    "Organisation",
    "ResponseEvent",
    "Run",
    "SendPermit",
    "Sender",
    "Suppression",
    "Tag",
    "Topic",
    "User",
    "UserSession",
    "metadata",
]
