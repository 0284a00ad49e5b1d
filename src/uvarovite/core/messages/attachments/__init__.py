"""What goes with a letter besides its words: files for everybody or for each person, messages as PDFs, calendar entries."""

from uvarovite.core.messages.attachments.attached import Attached, AttachedParts, Stamp
from uvarovite.core.messages.attachments.attachment import (
    MOST_ATTACHMENTS,
    AnyAttachment,
    AttachedFile,
    Attachment,
    CalendarEntry,
    attachment_problems,
    files_of,
    is_portable,
)
from uvarovite.core.messages.attachments.base import AttachmentBase
from uvarovite.core.messages.attachments.files import (
    ATTACHMENT_FAULTS,
    KINDS,
    LARGEST_BYTES,
    MOST_TOGETHER,
    NO_FILES,
    AttachmentFault,
    KeptFile,
    checked_file,
    encoded_size,
)
from uvarovite.core.messages.attachments.message_pdf import MessagePdf, Pages, messages_shown
from uvarovite.core.messages.attachments.own_files import (
    MOST_AT_HAND,
    MOST_OWN_FILES,
    NamedFile,
    OwnFiles,
    OwnName,
    own_name,
)

__all__ = [
    "ATTACHMENT_FAULTS",
    "KINDS",
    "LARGEST_BYTES",
    "MOST_ATTACHMENTS",
    "MOST_AT_HAND",
    "MOST_OWN_FILES",
    "MOST_TOGETHER",
    "NO_FILES",
    "AnyAttachment",
    "Attached",
    "AttachedFile",
    "AttachedParts",
    "Attachment",
    "AttachmentBase",
    "AttachmentFault",
    "CalendarEntry",
    "KeptFile",
    "MessagePdf",
    "NamedFile",
    "OwnFiles",
    "OwnName",
    "Pages",
    "Stamp",
    "attachment_problems",
    "checked_file",
    "encoded_size",
    "files_of",
    "is_portable",
    "messages_shown",
    "own_name",
]
