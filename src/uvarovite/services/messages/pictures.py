"""Pictures that people upload for their letters, and that readers fetch from our public pages."""

import hashlib
from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.blocks import PartKind
from uvarovite.core.messages.document import written_parts
from uvarovite.core.messages.kept_pictures import kept_digest, picture_address
from uvarovite.core.messages.pictures import PictureFault
from uvarovite.sandbox.pictures import read_picture
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.store import pictures as store
from uvarovite.store.database import Database, Transaction
from uvarovite.store.tables import KeptPicture

# As many as one looks through; older ones stay where letters show them.
SHOWN = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureView:
    """A picture that letters can show; `address` is where readers fetch it. Sizes in pixels and bytes."""

    address: str
    name: str
    width: int
    height: int
    bytes: int
    created_at: datetime


@needs(Permission.LOOK)
def picture_list(database: Database, actor: Actor, *, public_url: str) -> list[PictureView]:
    """The pictures that were uploaded last."""
    with database.transaction() as tx:
        return [
            PictureView(
                address=picture_address(public_url, row.digest, row.kind),
                name=row.name,
                width=row.width,
                height=row.height,
                bytes=row.bytes,
                created_at=row.created_at,
            )
            for row in store.picture_list(tx, SHOWN)
        ]


@needs(Permission.WRITE)
def keep_picture(
    database: Database, actor: Actor, *, data: bytes, filename: str, public_url: str, now: datetime
) -> PictureView:
    """Keep a picture for letters, scaled to what they show; the same one is kept once. Raises BadInput."""
    try:
        found = read_picture(data)
    except PictureFault as fault:
        raise BadInput(fault.code, fault.message) from fault
    digest = hashlib.sha256(found.content).hexdigest()[:32]
    name = " ".join(filename.replace("\\", "/").rpartition("/")[2].split())[:200] or "picture"
    with database.transaction() as tx:
        kept = store.picture_by_digest(tx, digest)
        if kept is None:
            kept = KeptPicture(
                digest=digest,
                kind=found.kind,
                name=name,
                width=found.width,
                height=found.height,
                content=found.content,
                created_by=actor.user_id,
                created_at=now,
            )
            tx.add(kept)
            tx.flush()
            audit(tx, actor, Action.PICTURE_KEPT, kept.id, name=name)
        return PictureView(
            address=picture_address(public_url, kept.digest, kept.kind),
            name=kept.name,
            width=kept.width,
            height=kept.height,
            bytes=len(kept.content),
            created_at=kept.created_at,
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureFile:
    """A picture's bytes; `kind` is jpg, png or gif."""

    kind: str
    content: bytes


def picture_file(database: Database, digest: str) -> PictureFile | None:
    """The bytes of a picture, for whoever has its address; None where there is no such."""
    with database.transaction() as tx:
        kept = store.picture_by_digest(tx, digest)
        return PictureFile(kind=kept.kind, content=kept.content) if kept else None


def weight_of_pictures(tx: Transaction, content: MessageContent, fields: FieldMap) -> int:
    """What the pictures of a letter have in bytes, in the language where they have most; those elsewhere weigh nothing."""
    heaviest = 0
    for _, words in content.versions():
        shown = {
            digest
            for part in written_parts(words, fields)
            if part.kind is PartKind.PICTURE and (digest := kept_digest(part.source))
        }
        heaviest = max(heaviest, store.bytes_of(tx, shown) if shown else 0)
    return heaviest
