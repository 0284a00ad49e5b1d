"""A table of contacts as a message to a colleague: the first rows to read at once, all of them as an attached file."""

import hashlib
import html
from collections.abc import Sequence
from dataclasses import dataclass

from uvarovite.core.messages.envelope import Envelope, headed

# More than this is read in the file.
MOST_ROWS_SHOWN = 100
_LONGEST_CELL_SHOWN = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class AttachedFile:
    """A file; `media_type` such as text/csv."""

    filename: str
    media_type: str
    content: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class ContactTable:
    """What the message shows: the first rows of `total`, and a word from whoever sends it."""

    title: str
    note: str
    headers: Sequence[str]
    rows: Sequence[Sequence[str]]
    total: int


def assemble_table(table: ContactTable, attached: AttachedFile, envelope: Envelope) -> bytes:
    """The whole message; the same input gives the same bytes."""
    mail = headed(envelope, table.title)
    mail.set_content(_text(table, attached.filename), charset="utf-8", cte="quoted-printable")
    mail.add_alternative(_html(table, attached.filename), subtype="html", charset="utf-8", cte="quoted-printable")
    main, _, sub = attached.media_type.partition(";")[0].partition("/")
    mail.add_attachment(attached.content, maintype=main, subtype=sub, filename=attached.filename)
    digest = hashlib.sha256(envelope.message_id.encode()).hexdigest()[:24]
    mail.set_boundary(f"=_{digest}")
    for part in mail.iter_parts():
        if part.is_multipart():
            part.set_boundary(f"=_{digest}a")
    return mail.as_bytes()


def _rest(table: ContactTable, filename: str) -> str:
    hidden = table.total - len(table.rows)
    return f"and {hidden:,} more, all in {filename}." if hidden else f"The same is in {filename}."


def _cell(text: str) -> str:
    plain = " ".join(text.split())
    return plain if len(plain) <= _LONGEST_CELL_SHOWN else f"{plain[: _LONGEST_CELL_SHOWN - 1]}…"


def _text(table: ContactTable, filename: str) -> str:
    """One block for each person: a table in plain text is unreadable as soon as a line is folded."""
    blocks = [
        "\n".join(f"{label}: {_cell(cell)}" for label, cell in zip(table.headers, row, strict=True) if cell.strip())
        for row in table.rows
    ]
    parts = [table.title, table.note.strip(), *blocks, _rest(table, filename)]
    return "\n\n".join(part for part in parts if part) + "\n"


_BORDER = "border:1px solid #c9d2cb;padding:4px 8px;text-align:left;vertical-align:top"


def _html(table: ContactTable, filename: str) -> str:
    head = "".join(f'<th scope="col" style="{_BORDER}">{html.escape(label)}</th>' for label in table.headers)
    body = "".join(
        "<tr>" + "".join(f'<td style="{_BORDER}" dir="auto">{html.escape(_cell(cell))}</td>' for cell in row) + "</tr>"
        for row in table.rows
    )
    note = "".join(f"<p>{html.escape(line)}</p>" for line in table.note.splitlines() if line.strip())
    return (
        f'<!doctype html><html><head><meta charset="utf-8"><title>{html.escape(table.title)}</title></head>'
        f'<body style="font-family:sans-serif;font-size:14px"><h1 style="font-size:18px">{html.escape(table.title)}</h1>'
        f'{note}<table style="border-collapse:collapse"><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>'
        f"<p>{html.escape(_rest(table, filename))}</p></body></html>\n"
    )
