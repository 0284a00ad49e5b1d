"""Places for data as other programs write them, made inlays where a field is called so."""

import re
from collections.abc import Iterator

from pydantic import TypeAdapter

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages.blocks import Block
from uvarovite.core.messages.foreign_places import FOREIGN_PLACE

_BLOCKS: TypeAdapter[tuple[Block, ...]] = TypeAdapter(tuple[Block, ...])
_READ = ("text", "label", "alt", "url", "link", "address", "source")


def with_places(blocks: tuple[Block, ...], subject: str, fields: FieldMap) -> tuple[tuple[Block, ...], str, list[str]]:
    """Blocks and subject with a field's inlay in each place that is called as a field is; and the places that are left."""
    names = {_plain(key): key for key in fields} | {_plain(field.label): key for key, field in fields.items()}
    left: dict[str, None] = {}

    def put(found: re.Match[str]) -> str:
        key = names.get(_plain(next(filter(None, found.groups()), "")))
        if key is None:
            left[found[0]] = None
            return found[0]
        return f"@{{{key}}}"

    def walk(told: object, name: str) -> object:
        match told:
            case str():
                return FOREIGN_PLACE.sub(put, told) if name in _READ else told
            case dict():
                return {key: walk(value, key) for key, value in told.items()}
            case list():
                return [walk(one, name) for one in told]
            case _:
                return told

    stored = _BLOCKS.dump_python(blocks, mode="json")
    found = _BLOCKS.validate_python(walk(stored, ""))
    return found, FOREIGN_PLACE.sub(put, subject), list(left)


def _plain(name: str) -> str:
    """A name without what differs between programs: capitals, spaces, underscores, hyphens."""
    return "".join(_letters(name))


def _letters(name: str) -> Iterator[str]:
    return (sign for sign in name.casefold() if sign.isalnum())
