"""Who has nothing in the fields that a message names, as conditions of the store."""

from collections.abc import Iterable

from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages import MessageContent
from uvarovite.core.messages.document import readers_of_part
from uvarovite.store.audiences.audiences import blank_sql


def blank_conditions(content: MessageContent, fields: FieldMap, named: Iterable[tuple[str, str]]) -> dict[str, str]:
    """For each field of (part, field): a condition over `contact`, true for who has nothing in it and gets that part."""
    languages: dict[str, list[str]] = {}
    for part, key in named:
        languages.setdefault(key, []).extend(readers_of_part(content, part))
    others = [other.language for other in content.others]
    return {
        key: blank_sql(key, standard=fields[key].standard, among=among, others=others)
        for key, among in languages.items()
    }
