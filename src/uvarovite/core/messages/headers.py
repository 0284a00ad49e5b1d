"""Header lines (RFC 5322, section 2.2): folded, and encoded where they hold more than ASCII (RFC 2047)."""

import re
from binascii import b2a_base64
from urllib.parse import quote

from uvarovite.core.inlay import header

# Of a line; 78 with its line end is what RFC 5322 asks for, 76 what RFC 2047 allows with an encoded word in it.
_LONGEST = 76
# Of an encoded word, with its frame (RFC 2047, section 2); 45 bytes make 60 signs of base64.
_MOST_BYTES = 45
_SPECIAL = re.compile(r'[()<>@,;:\\".\[\]]')
# Words with one blank between them, as most names are.
_PLAIN_NAME = re.compile(r"[A-Za-z0-9'-]{1,59}(?: [A-Za-z0-9'-]{1,59})*")
_LOOKS_ENCODED = re.compile(r"=\?")


def unstructured(name: str, text: str) -> str:
    """A header field of free text, with its CRLF."""
    text = header(text).strip()
    if len(name) + 2 + len(text) <= _LONGEST and text.isascii() and "=?" not in text:
        return f"{name}: {text}\r\n"
    if not text.isascii() or _LOOKS_ENCODED.search(text) or any(len(word) > 70 for word in text.split(" ")):
        return _folded(name, _encoded_words(text))
    return _folded(name, text.split())


def mailboxes(name: str, display: str, address: str) -> str:
    """A header field with one mailbox; `address` is in the form of the wire."""
    shown = header(display).strip()
    if _PLAIN_NAME.fullmatch(shown) and len(name) + len(shown) + len(address) <= _LONGEST - 5:
        return f"{name}: {shown} <{address}>\r\n"
    spec = f"<{address}>"
    if not shown:
        return _folded(name, [address])
    if not shown.isascii() or _LOOKS_ENCODED.search(shown):
        return _folded(name, [*_encoded_words(shown), spec])
    if _SPECIAL.search(shown) or "  " in shown:
        escaped = shown.replace("\\", "\\\\").replace('"', '\\"')
        # A quoted text is not folded within a word; a long one is encoded instead.
        return _folded(name, [f'"{escaped}"', spec] if len(escaped) < 60 else [*_encoded_words(shown), spec])
    words = shown.split(" ")
    return _folded(name, [*words, spec] if max(map(len, words)) < 60 else [*_encoded_words(shown), spec])


def _encoded_words(text: str) -> list[str]:
    """A text as encoded words in base64, none of which cuts a character."""
    whole = text.encode("utf-8", "replace")
    if len(whole) <= _MOST_BYTES:
        return [_word(whole)]
    words: list[str] = []
    piece = b""
    for sign in text:
        encoded = sign.encode("utf-8", "replace")
        if len(piece) + len(encoded) > _MOST_BYTES:
            words.append(_word(piece))
            piece = b""
        piece += encoded
    return [*words, _word(piece)]


def _word(piece: bytes) -> str:
    return f"=?utf-8?b?{b2a_base64(piece, newline=False).decode('ascii')}?="


def _folded(name: str, words: list[str]) -> str:
    lines, line = [], f"{name}:"
    for word in words:
        if len(line) + 1 + len(word) > _LONGEST and line != f"{name}:":
            lines.append(line)
            line = ""
        line += f" {word}"
    return "\r\n".join([*lines, line]) + "\r\n"


def parameter(field: str, name: str, text: str) -> str:
    """A header field with a text as its parameter, with its CRLF: quoted, or as RFC 2231 has it where it needs that."""
    text = header(text).strip()
    if text.isascii() and len(text) <= _LONGEST - len(name) - 5:
        escaped = text.replace("\\", "\\\\").replace('"', '\\"')
        return f'{field};\r\n {name}="{escaped}"\r\n'
    # Percent-encoded pieces of bytes, in sections (RFC 2231, sections 3 and 4).
    told = [quote(sign, safe="") for sign in text.encode("utf-8", "replace").decode("utf-8")]
    sections, section = [], "utf-8''"
    for sign in told:
        if len(section) + len(sign) > _LONGEST - len(name) - 8:
            sections.append(section)
            section = ""
        section += sign
    sections.append(section)
    if len(sections) == 1:
        return f"{field};\r\n {name}*={sections[0]}\r\n"
    return "".join([field, *(f";\r\n {name}*{place}*={one}" for place, one in enumerate(sections)), "\r\n"])
