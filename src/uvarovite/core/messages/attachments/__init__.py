"""What goes with a letter besides its words: files that everybody gets, and entries for a calendar."""

from uvarovite.core.messages.attachments.attached import Attached, AttachedParts, Stamp
from uvarovite.core.messages.attachments.attachment import (
    MOST_ATTACHMENTS,
    AttachedFile,
    Attachment,
    CalendarEntry,
    attachment_problems,
    days_of,
    files_of,
)
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

__all__ = [
    "ATTACHMENT_FAULTS",
    "KINDS",
    "LARGEST_BYTES",
    "MOST_ATTACHMENTS",
    "MOST_TOGETHER",
    "NO_FILES",
    "Attached",
    "AttachedFile",
    "AttachedParts",
    "Attachment",
    "AttachmentFault",
    "CalendarEntry",
    "KeptFile",
    "Stamp",
    "attachment_problems",
    "checked_file",
    "days_of",
    "encoded_size",
    "files_of",
]
