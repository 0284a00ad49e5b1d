"""All tables, so that one import knows the whole schema."""

from sqlmodel import SQLModel

from uvarovite.store.tables.accounts import (
    ApiToken,
    IdempotencyKey,
    KnownOrigin,
    LinkPurpose,
    LoginLink,
    Tally,
    User,
    UserSession,
)
from uvarovite.store.tables.advice import AcceptedAdvice
from uvarovite.store.tables.attachments import KeptAttachment
from uvarovite.store.tables.audiences import Audience, AudienceMember, AudienceSnapshot, MemberKind
from uvarovite.store.tables.audit import AuditEntry
from uvarovite.store.tables.campaigns import Campaign, CampaignPreview, PlannedRelease, Run, RunPause
from uvarovite.store.tables.consent import (
    AddressClosing,
    Consent,
    ConsentEvent,
    OwnLimit,
    Suppression,
    Topic,
    TrackingWish,
)
from uvarovite.store.tables.contacts import (
    ChangeSet,
    Contact,
    ContactChange,
    ContactField,
    ContactNote,
    ContactSearch,
    ContactTag,
    ContactView,
    DifferentPeople,
    SortedColumn,
    Tag,
)
from uvarovite.store.tables.delivery import (
    Attempt,
    Batch,
    Delivery,
    DeliveryLink,
    RunCount,
    RunLink,
    SendCount,
    SendLimit,
    SendOpen,
    SentMail,
    SlowDomain,
)
from uvarovite.store.tables.drafts import Draft, DraftKind, TestList, TestMail
from uvarovite.store.tables.handed_out import TableMail
from uvarovite.store.tables.imports import ColumnMemory, Import, ImportPiece, ImportProgress, ImportRefusal
from uvarovite.store.tables.inbound import InboundMail, InboundMailbox, ReplyEntry
from uvarovite.store.tables.messages import Message, MessageComment, MessageVersion
from uvarovite.store.tables.organisation import Organisation, Relay, RelayPool, Sender
from uvarovite.store.tables.pictures import KeptPicture
from uvarovite.store.tables.printing import PostRefusal, PrintedLetter, Printing, PrintingFile
from uvarovite.store.tables.proofs import ProofSeen, ProofSheetRow
from uvarovite.store.tables.rehearsals import Rehearsal
from uvarovite.store.tables.responses import CountedResponse, ResponseCount, ResponseEvent, ResponseFirst
from uvarovite.store.tables.signing import SigningKeyRow
from uvarovite.store.tables.signing_up import SignUp, SignUpForm
from uvarovite.store.tables.sources import LiveSource, SourcePull, SourceRow
from uvarovite.store.tables.verification import DomainCheck

metadata = SQLModel.metadata

__all__ = [
    "AcceptedAdvice",
    "AddressClosing",
    "ApiToken",
    "Attempt",
    "Audience",
    "AudienceMember",
    "AudienceSnapshot",
    "AuditEntry",
    "Batch",
    "Campaign",
    "CampaignPreview",
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
    "CountedResponse",
    "Delivery",
    "DeliveryLink",
    "DifferentPeople",
    "DomainCheck",
    "Draft",
    "DraftKind",
    "IdempotencyKey",
    "Import",
    "ImportPiece",
    "ImportProgress",
    "ImportRefusal",
    "InboundMail",
    "InboundMailbox",
    "KeptAttachment",
    "KeptPicture",
    "KnownOrigin",
    "LinkPurpose",
    "LiveSource",
    "LoginLink",
    "MemberKind",
    "Message",
    "MessageComment",
    "MessageVersion",
    "Organisation",
    "OwnLimit",
    "PlannedRelease",
    "PostRefusal",
    "PrintedLetter",
    "Printing",
    "PrintingFile",
    "ProofSeen",
    "ProofSheetRow",
    "Rehearsal",
    "Relay",
    "RelayPool",
    "ReplyEntry",
    "ResponseCount",
    "ResponseEvent",
    "ResponseFirst",
    "Run",
    "RunCount",
    "RunLink",
    "RunPause",
    "SendCount",
    "SendLimit",
    "SendOpen",
    "Sender",
    "SentMail",
    "SignUp",
    "SignUpForm",
    "SigningKeyRow",
    "SlowDomain",
    "SortedColumn",
    "SourcePull",
    "SourceRow",
    "Suppression",
    "TableMail",
    "Tag",
    "Tally",
    "TestList",
    "TestMail",
    "Topic",
    "TrackingWish",
    "User",
    "UserSession",
    "metadata",
]
