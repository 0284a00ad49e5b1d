"""A file of their own for each person, found by its name in a set that was uploaded.

The name is a text with one field in it, such as `certificate @{contact_no}.pdf`. Who has a file is asked twice, by the
message that takes it and by the clearance that lets only those through who have one, so that names are compared in a way
that a database can say as well: as they stand, without blanks at their ends, and A to Z as a to z.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from uvarovite.core.contacts import FieldMap, FieldType, Record
from uvarovite.core.inlay import Insert, Note, Stretch, parse_inlay
from uvarovite.core.inlay.tree import Name
from uvarovite.core.language import LanguageError
from uvarovite.core.messages.attachments.base import AttachmentBase
from uvarovite.core.messages.attachments.files import LONGEST_NAME
from uvarovite.core.messages.blocks import PartKind, PartProblem, Seat, WrittenPart, part_problem
from uvarovite.core.messages.passages import Part

# Their names stand in every version of the message.
MOST_OWN_FILES = 1_000
# A worker has all of them in memory while it sends.
MOST_AT_HAND = 100 << 20
UPPER, LOWER = "ABCDEFGHIJKLMNOPQRSTUVWXYZ", "abcdefghijklmnopqrstuvwxyz"
_FOLDED = str.maketrans(UPPER, LOWER)


class NamedFile(Part):
    """A file of the set, by the digest of its bytes, and the name under which it was uploaded."""

    file: str = Field(max_length=64, pattern=r"^[0-9a-f]+$")
    name: str = Field(max_length=LONGEST_NAME)


class OwnFiles(AttachmentBase):
    """For each person the file whose name is theirs. With `needed` nobody gets the message without one."""

    kind: Literal["own"] = "own"
    name: str = Field(default="", max_length=500)
    files: tuple[NamedFile, ...] = Field(default=(), max_length=MOST_OWN_FILES)
    needed: bool = False

    def parts(self, seat: Seat) -> Iterator[WrittenPart]:
        """What its author writes."""
        # Who has nothing in the field is told by the checks of attachments.
        yield seat.for_some().part("name", PartKind.LINE, self.name)

    def problems(self, at: str, fields: FieldMap) -> Iterator[PartProblem]:
        """What is wrong with it besides the text of its name."""
        if not self.files:
            yield part_problem(f"{at}.files", "no_files", "Upload the files, one for each person.")
        if own_name(self.name, fields) is None:
            message = (
                "Say what the files are called: a text with one field in it, such as certificate @{contact_no}.pdf."
            )
            yield part_problem(f"{at}.name", "own_name", message)

    def by_name(self) -> Mapping[str, NamedFile]:
        """The files by their folded names, with their endings and without; the first of each name."""
        found: dict[str, NamedFile] = {}
        for one in self.files:
            found.setdefault(fold_name(one.name), one)
        for one in self.files:
            found.setdefault(fold_name(one.name.rpartition(".")[0]), one)
        return found


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnName:
    """What a person's file is called: what stands before and behind the value of a field."""

    before: str
    field: str
    behind: str

    def of(self, record: Record) -> str | None:
        """The folded name of a person's file; None for whoever has nothing in the field."""
        value = record.get(self.field)
        return fold_name(f"{self.before}{value}{self.behind}") if isinstance(value, str) and value else None


def own_name(source: str, fields: FieldMap) -> OwnName | None:
    """What a text with one field of words in it says of names; None where it is none."""
    try:
        nodes = [node for node in parse_inlay(source) if not isinstance(node, Note)]
    except LanguageError:
        return None
    inserts = [node for node in nodes if isinstance(node, Insert)]
    if len(inserts) != 1 or any(not isinstance(node, Insert | Stretch) for node in nodes):
        return None
    (insert,) = inserts
    value = insert.value
    if not isinstance(value, Name) or insert.format is not None or insert.fallback is not None:
        return None
    field = fields.get(value.name)
    if field is None or field.type not in (FieldType.TEXT, FieldType.CHOICE):
        return None
    at = nodes.index(insert)
    return OwnName(before=_text(nodes[:at]), field=value.name, behind=_text(nodes[at + 1 :]))


def _text(nodes: Sequence[object]) -> str:
    return "".join(node.text for node in nodes if isinstance(node, Stretch))


def fold_name(name: str) -> str:
    """A name as it is compared."""
    return name.strip(" ").translate(_FOLDED)
