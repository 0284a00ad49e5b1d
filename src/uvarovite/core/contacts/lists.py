"""The text form of a list in one cell: `Fluorite | Skarn Quarry | 2021-05-01; Galena | Lode End | 2023-04-12`.

Records stand apart by `;` or a new line, parts by `|`, in the order of the field's parts; blanks at the end may be left
out. Where a text holds one of these signs itself, the cell is a JSON array of objects with the parts' keys.
"""

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

# A person's bookings or gifts; a longer history belongs into a table of its own.
MOST_ITEMS = 200
_APART = re.compile(r"[;|\n]")


@dataclass(frozen=True, slots=True, kw_only=True)
class Unsplit:
    """Why a text is no list (core.contacts.faults, not_a_list): too_many, parts, json, record or unknown."""

    how: str
    facts: Mapping[str, str | int]


def split_items(text: str, keys: Sequence[str]) -> list[list[str]] | Unsplit:
    """The parts of each record as texts, in the order of `keys`; or what is wrong."""
    if text.startswith("["):
        rows = _from_json(text, keys)
        if isinstance(rows, Unsplit):
            return rows
    else:
        items = (item for item in re.split(r"[;\n]", text) if item.strip(" |\t\r"))
        rows = [[part.strip() for part in item.split("|")] for item in items]
    if len(rows) > MOST_ITEMS:
        return Unsplit(how="too_many", facts={"records": len(rows), "most": MOST_ITEMS})
    for row in rows:
        if len(row) > len(keys):
            text, names = " | ".join(row)[:60], ", ".join(keys)
            return Unsplit(how="parts", facts={"text": text, "parts": len(row), "wanted": len(keys), "keys": names})
    return [[*row, *[""] * (len(keys) - len(row))] for row in rows]


def _from_json(text: str, keys: Sequence[str]) -> list[list[str]] | Unsplit:
    try:
        read = json.loads(text)
    except (ValueError, RecursionError):
        return Unsplit(how="json", facts={})
    rows = []
    for item in read:
        if not isinstance(item, Mapping):
            return Unsplit(how="record", facts={"text": repr(str(item)[:40]), "keys": ", ".join(keys)})
        unknown = next((key for key in item if key not in keys), None)
        if unknown is not None:
            return Unsplit(how="unknown", facts={"text": str(unknown)[:40], "keys": ", ".join(keys)})
        rows.append(["" if item.get(key) is None else _plain(item[key]) for key in keys])
    return rows


def _plain(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Mapping):
        return f"{value.get('amount', '')} {value.get('currency', '')}".strip()
    return str(value)


def join_items(rows: Sequence[Sequence[str]], keys: Sequence[str]) -> str:
    """The text form that `split_items` reads back to the same parts."""
    if any(_APART.search(part) for row in rows for part in row) or (rows and rows[0] and rows[0][0].startswith("[")):
        return json.dumps([{k: p for k, p in zip(keys, row, strict=True) if p} for row in rows], ensure_ascii=False)
    return "; ".join(" | ".join(row).rstrip(" |") or "|" for row in rows)
