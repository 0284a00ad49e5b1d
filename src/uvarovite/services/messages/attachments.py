"""Files that people upload to go with their letters."""

import hashlib
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.attachments import KINDS, AttachmentFault, OwnFiles, checked_file
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.saved_file import SavedFile
from uvarovite.store import attachments as store
from uvarovite.store.attachments import kept_files
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import KeptAttachment

# As many as one looks through; older ones stay where messages have them.
SHOWN = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class AttachmentView:
    """A file that can go with a message; `file` is the digest by which messages name it, `size` in bytes."""

    file: str
    name: str
    kind: str
    size: int
    created_at: datetime


@needs(Permission.LOOK)
def attachment_list(database: Database, actor: Actor) -> list[AttachmentView]:
    """The files that were uploaded last."""
    with database.transaction() as tx:
        return [
            AttachmentView(file=row.digest, name=row.name, kind=row.kind, size=row.size, created_at=row.created_at)
            for row in store.attachment_list(tx, SHOWN)
        ]


@needs(Permission.WRITE)
def keep_attachment(database: Database, actor: Actor, *, data: bytes, filename: str, now: datetime) -> AttachmentView:
    """Keep a file; the same one is kept once, and told under the name that it comes with now. Raises BadInput."""
    try:
        found = checked_file(filename, data)
    except AttachmentFault as fault:
        raise BadInput(fault.code, fault.message) from fault
    digest = hashlib.sha256(data).hexdigest()
    with database.transaction() as tx:
        kept = store.attachment_by_digest(tx, digest)
        if kept is None:
            kept = KeptAttachment(
                digest=digest,
                kind=found.kind,
                name=found.name,
                content=data,
                created_by=actor.user_id,
                created_at=now,
            )
            tx.add(kept)
            tx.flush()
            audit(tx, actor, Action.ATTACHMENT_KEPT, kept.id, name=found.name)
        return AttachmentView(file=digest, name=found.name, kind=kept.kind, size=found.size, created_at=kept.created_at)


def without_lost_files(tx: Transaction, content: MessageContent) -> MessageContent:
    """The words without files for each person that are not kept any more: whoever had them was erased meanwhile."""
    named = {one.file for own in content.attachments if isinstance(own, OwnFiles) for one in own.files}
    lost = named - kept_files(tx, named, whole=False).keys()
    if not lost:
        return content
    return content.model_copy(
        update={
            "attachments": tuple(
                one.model_copy(update={"files": tuple(file for file in one.files if file.file not in lost)})
                if isinstance(one, OwnFiles)
                else one
                for one in content.attachments
            )
        }
    )


@needs(Permission.LOOK)
def attachment_content(database: Database, actor: Actor, digest: str) -> SavedFile:
    """A file as readers get it. Raises NotFound."""
    with database.transaction() as tx:
        kept = store.attachment_by_digest(tx, digest)
        if kept is None:
            raise NotFound("file")
        return SavedFile(name=kept.name, media_type=KINDS[kept.kind].media_type, content=kept.content)
