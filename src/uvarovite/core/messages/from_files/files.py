"""A file to blocks: what it is is told by what is in it, never by its name alone."""

import email
import email.policy
import io
import zipfile
from dataclasses import replace
from email.message import EmailMessage

import mammoth
from charset_normalizer import from_bytes
from markdown_it import MarkdownIt

from uvarovite.core.messages.attachments import is_portable
from uvarovite.core.messages.blocks import Paragraph
from uvarovite.core.messages.from_files.html import blocks_of_html
from uvarovite.core.messages.from_files.links import linked
from uvarovite.core.messages.from_files.words import WordsOfFile, WritingFault
from uvarovite.core.messages.message_file import FORMAT, NotReadable, read_message_file

# A letter of pages is some hundred kilobytes; Word files hold pictures besides, which are left out.
LARGEST_BYTES = 20 << 20
_LARGEST_TEXT_BYTES = 3 << 20
_MOST_UNPACKED_BYTES, _MOST_ENTRIES = 100 << 20, 5_000
# How often a byte may be unpacked: words come to some ten to one, what was made to burst to a thousand to one.
_MOST_RATIO = 200


def words_of_file(data: bytes, filename: str) -> WordsOfFile:
    """What was written in a file. Raises WritingFault."""
    if len(data) > LARGEST_BYTES:
        raise WritingFault("too_large", size=-(-len(data) >> 20), most=LARGEST_BYTES >> 20)
    if data.startswith(b"PK\x03\x04"):
        found = _from_word(data)
    elif data.startswith(b"\xd0\xcf\x11\xe0"):
        raise WritingFault("old_word")
    else:
        found = _from_text(data, filename)
    if not found.blocks:
        raise WritingFault("nothing")
    return found


def _from_text(data: bytes, filename: str) -> WordsOfFile:
    if len(data) > _LARGEST_TEXT_BYTES:
        raise WritingFault("too_large", size=-(-len(data) >> 20), most=_LARGEST_TEXT_BYTES >> 20)
    if b"\x00" in data[:4_096] and not data.startswith((b"\xff\xfe", b"\xfe\xff")):
        raise WritingFault("no_writing")
    ending = filename.lower().rpartition(".")[2]
    if ending == "eml":
        return _from_mail(data)
    text = _decoded(data)
    if text.lstrip().startswith("{") and FORMAT in text[:2_000]:
        return _from_message_file(data)
    head = text[:2_000].lower()
    if "<html" in head or "<!doctype" in head or "<body" in head or (ending in ("html", "htm") and "<" in head):
        return blocks_of_html(text)
    return (
        blocks_of_html(MarkdownIt("js-default").render(text)) if ending in ("md", "markdown") else blocks_of_text(text)
    )


def _from_message_file(data: bytes) -> WordsOfFile:
    """A message in our own format; its fields, sender and organisation are those of whoever reads it."""
    try:
        content = read_message_file(data.removeprefix(b"\xef\xbb\xbf")).content
    except NotReadable as fault:
        raise WritingFault("message_file", why=str(fault)) from fault
    portable = tuple(one for one in content.attachments if is_portable(one))
    content = content.model_copy(update={"attachments": portable})
    return WordsOfFile(blocks=content.blocks, subject=content.subject, content=content)


def blocks_of_text(text: str) -> WordsOfFile:
    """Plain text: a blank line begins the next paragraph, and an address of the web is a link."""
    clean = text.replace("\r\n", "\n").replace("\r", "\n").replace("\x00", "")
    blocks = [part.strip("\n") for part in clean.split("\n\n")]
    paragraphs = tuple(Paragraph(text=linked(one[:50_000])) for one in blocks if one.strip())
    left = {"blocks": 200} if len(paragraphs) > 200 else {}
    return WordsOfFile(blocks=paragraphs[:200], left_out=left)


def _decoded(data: bytes) -> str:
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        best = from_bytes(data).best()
        if best is None:
            raise WritingFault("no_writing") from None
        return str(best)


def _from_mail(data: bytes) -> WordsOfFile:
    """The words of a mail (RFC 5322): its HTML where there is some, else its text; attachments are left out."""
    message = email.message_from_bytes(data, policy=email.policy.default)
    assert isinstance(message, EmailMessage)
    body = message.get_body(preferencelist=("html", "plain"))
    if body is None:
        raise WritingFault("no_writing")
    try:
        text = body.get_content()
    except (LookupError, UnicodeError, KeyError) as fault:
        raise WritingFault("unreadable") from fault
    found = blocks_of_html(text) if body.get_content_subtype() == "html" else blocks_of_text(text)
    return replace(found, subject=" ".join(str(message.get("subject", "")).split())[:200])


def _from_word(data: bytes) -> WordsOfFile:
    """The words of a .docx (ECMA-376); nothing in it is run, and its pictures are left out."""
    macros = _look_inside(data)
    try:
        html = mammoth.convert_to_html(io.BytesIO(data), convert_image=mammoth.images.img_element(_no_picture)).value
    except WritingFault:
        raise
    except Exception as fault:
        # What a broken file makes the reader do is its own.
        raise WritingFault("unreadable") from fault
    found = blocks_of_html(html)
    return replace(found, left_out={**found.left_out, "macros": 1}) if macros else found


def _look_inside(data: bytes) -> bool:
    """Is it a Word file that can be unpacked, and has it macros? Raises WritingFault."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            entries = packed.infolist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError) as fault:
        raise WritingFault("unreadable") from fault
    size = sum(one.file_size for one in entries)
    if len(entries) > _MOST_ENTRIES or size > _MOST_UNPACKED_BYTES or size > _MOST_RATIO * max(len(data), 1 << 16):
        raise WritingFault("inflated")
    names = {one.filename for one in entries}
    if "word/document.xml" not in names:
        raise WritingFault("no_writing")
    return any(name.endswith("vbaProject.bin") for name in names)


def _no_picture(_picture: object) -> dict[str, str]:
    # An address that leads to no picture: the reader of HTML counts it as one that stood in the file.
    return {"src": ""}
