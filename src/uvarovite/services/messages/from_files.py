"""What was written elsewhere, from a file as the words of a message; nothing is saved yet."""

from dataclasses import dataclass

from uvarovite.core.accounts import Actor, Permission
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.from_files import LARGEST_BYTES, LEFT_OUT, WritingFault, with_places
from uvarovite.core.messages.shared_blocks import without_shared
from uvarovite.core.values.sentences import sentence
from uvarovite.sandbox.writing import read_writing
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput
from uvarovite.store.contacts.fields import load_fields
from uvarovite.store.database import Database


@dataclass(frozen=True, slots=True, kw_only=True)
class FileWords:
    """The words as a message, what was left out, and places for data that no field is called as."""

    name: str
    content: MessageContent
    left_out: list[str]
    places: list[str]


@needs(Permission.WRITE)
def words_from_file(database: Database, actor: Actor, *, data: bytes, filename: str) -> FileWords:
    """The words of a file. Raises BadInput, with what to do."""
    try:
        found = read_writing(data[: LARGEST_BYTES + 1], filename)
    except WritingFault as fault:
        raise BadInput(fault.code, fault.message) from fault
    with database.transaction() as tx:
        fields = load_fields(tx)
    # A message of ours names its fields; what is not called so here is told where it stands.
    whole, (blocks, subject, places) = found.content, with_places(found.blocks, found.subject, fields)
    name = " ".join(filename.replace("\\", "/").rpartition("/")[2].rpartition(".")[0].replace("_", " ").split())
    return FileWords(
        name=name[:190] or "Words from a file",
        content=without_shared(whole) if whole else MessageContent(subject=subject, blocks=blocks),
        left_out=[
            sentence(words, {"count": count})
            for kind, words in LEFT_OUT.items()
            if (count := found.left_out.get(kind, 0))
        ],
        places=[] if whole else places,
    )
