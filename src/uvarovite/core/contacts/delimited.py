"""Delimited text (RFC 4180 and what programs make of it) to a sheet, streaming: a file of any size takes one line at a
time. Encoding, delimiter and quote are detected, told, and may be set by the caller.
"""

import codecs
import csv
import io
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from charset_normalizer import from_bytes

from uvarovite.core.contacts.import_faults import FileFault
from uvarovite.core.contacts.sheets import (
    LONGEST_CELL,
    Bytes,
    Sheet,
    nameless,
    number_rows,
    validate_headers,
)

if TYPE_CHECKING:
    import _csv

    from _typeshed import WriteableBuffer

ENCODINGS = (
    "utf-8", "windows-1252", "iso-8859-1", "iso-8859-2", "windows-1250", "iso-8859-7", "windows-1253", "windows-1251",
    "shift_jis", "gb18030", "utf-16", "mac-roman",
)  # fmt: skip
DELIMITERS = (",", ";", "\t", "|", "~", "^")
QUOTES = ('"', "'")
# No row of 200 cells is longer; without a bound, a file of one endless line would be taken into memory whole.
LONGEST_LINE = 4_000_000
_SAMPLE_LINES = 60
_LOOKED_THROUGH_BYTES = 256 * 1024
# What the standard library calls the encodings that are told apart by the words they make.
_CODECS = {
    "cp1252": "windows-1252", "cp1250": "windows-1250", "iso8859_2": "iso-8859-2", "cp1253": "windows-1253",
    "iso8859_7": "iso-8859-7", "cp1251": "windows-1251", "shift_jis": "shift_jis", "gb18030": "gb18030",
    "mac_roman": "mac-roman",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Dialect:
    """How a file is written. `guessed` tells that the encoding is a guess, which the caller should show."""

    encoding: str
    delimiter: str
    quote: str
    guessed: bool


def read_delimited(
    data: Bytes,
    *,
    encoding: str | None = None,
    delimiter: str | None = None,
    quote: str | None = None,
    named: bool = True,
) -> tuple[Sheet, Dialect]:
    """Read a file, whose first line names the columns unless `named` is False. Raises FileFault: empty, spreadsheet, binary, encoding, delimiter, no_header, twice, columns."""
    first = next(iter(data()), b"")
    if first.startswith((b"PK\x03\x04", b"\xd0\xcf\x11\xe0")):
        raise FileFault("spreadsheet")
    used, guessed = _encoding(data, first, encoding)
    sample = _sample(data, used)
    if not any(line.strip() for line in sample):
        raise FileFault("empty")
    for sign in (delimiter, quote):
        if sign is not None and (len(sign) != 1 or sign in "\r\n\0"):
            raise FileFault("delimiter")
    dialect = Dialect(
        encoding=used,
        guessed=guessed,
        quote=quote or _quote(sample),
        delimiter=delimiter or _delimiter(sample, quote or _quote(sample)),
    )

    def records() -> Iterator[list[str]]:
        return _records(data, dialect)

    try:
        raw = next(cells for cells in records() if any(cell.strip() for cell in cells))
    except (FileFault, StopIteration) as fault:
        if isinstance(fault, FileFault) and fault.code != "broken_quotes":
            raise
        raise FileFault("no_header", how="quote") from fault
    headers = validate_headers(raw) if named else nameless(len(raw))

    def rows() -> Iterator[tuple[int, list[str]]]:
        numbered = number_rows(records())
        if named:
            next(numbered, None)
        return numbered

    return Sheet(headers=headers, rows=rows), dialect


def read_text_lines(data: Bytes, encoding: str | None) -> tuple[Callable[[], Iterator[str]], str]:
    """(the lines from the beginning at each call, encoding) of a text file that has no columns. Raises FileFault."""
    first = next(iter(data()), b"")
    used, _ = _encoding(data, first, encoding)
    return (lambda: _lines(data, used)), used


class _Pieces(io.RawIOBase):
    """Pieces of bytes as a raw stream, so that the standard text reader can do the rest."""

    def __init__(self, pieces: Iterable[bytes]) -> None:
        self._pieces = iter(pieces)
        self._rest = b""

    def readable(self) -> bool:
        return True

    def readinto(self, buffer: "WriteableBuffer") -> int:
        view = memoryview(buffer).cast("B")
        while not self._rest:
            piece = next(self._pieces, None)
            if piece is None:
                return 0
            self._rest = piece
        taken = self._rest[: len(view)]
        self._rest = self._rest[len(taken) :]
        view[: len(taken)] = taken
        return len(taken)


def _lines(data: Bytes, encoding: str) -> Iterator[str]:
    """Lines with their ends; \\n, \\r\\n and \\r all end one. Raises FileFault: encoding, binary, line."""
    codec = {"utf-8": "utf-8-sig"}.get(encoding, encoding)
    text = io.TextIOWrapper(io.BufferedReader(_Pieces(data()), 1 << 18), encoding=codec, newline="")
    try:
        while line := text.readline(LONGEST_LINE):
            if "\0" in line:
                raise FileFault("binary")
            if len(line) == LONGEST_LINE:
                raise FileFault("line", most=LONGEST_LINE)
            yield line
    except UnicodeError as fault:
        raise _wrong_encoding(encoding) from fault


def _wrong_encoding(encoding: str) -> FileFault:
    return FileFault("encoding", encoding=encoding)


def _records(data: Bytes, dialect: Dialect) -> Iterator[list[str]]:
    csv.field_size_limit(LONGEST_CELL)
    reader: _csv.Reader = csv.reader(
        _lines(data, dialect.encoding), delimiter=dialect.delimiter, quotechar=dialect.quote, strict=True
    )
    try:
        yield from reader
    except csv.Error as fault:
        raise FileFault("broken_quotes", line=reader.line_num, most=LONGEST_CELL, said=str(fault)) from fault


def _encoding(data: Bytes, first: bytes, asked: str | None) -> tuple[str, bool]:
    if asked is not None and asked not in ENCODINGS:
        raise FileFault("encoding", how="unknown", asked=asked, encodings=", ".join(ENCODINGS))
    if asked is not None:
        return asked, False
    if first.startswith((b"\xff\xfe", b"\xfe\xff")):
        return "utf-16", False
    # UTF-8 cannot be met by chance; a file that is not UTF-8 is most often what an older spreadsheet saved, in one of
    # several alphabets: which one is told from the words. The last guess fits every file, so that one can look at it and
    # choose another.
    if _decodes(data, "utf-8"):
        return "utf-8", False
    for candidate in (*_likely(data), "windows-1252", "windows-1250", "iso-8859-1"):
        if _decodes(data, candidate):
            return candidate, True
    raise _wrong_encoding("UTF-8")


def _likely(data: Bytes) -> list[str]:
    """Our encodings that make words of the beginning of a file, the likeliest first."""
    beginning = b""
    for piece in data():
        beginning += piece
        if len(beginning) >= _LOOKED_THROUGH_BYTES:
            break
    # Only lines with other letters than ASCII's tell anything; a list of plain names would drown them.
    telling = b"\n".join(line for line in beginning.split(b"\n") if not line.isascii())
    found = from_bytes(telling or beginning, cp_isolation=list(_CODECS), threshold=0.5, enable_fallback=False)
    known = [match for match in found if match.encoding in _CODECS]
    # A wrong alphabet shows in signs where names have letters.
    known.sort(
        key=lambda match: (
            sum(not sign.isascii() and not sign.isalpha() for sign in str(match)),
            match.chaos,
            -match.coherence,
        )
    )
    # Where several give the very same text, the western one is the most usual.
    return [next(name for codec, name in _CODECS.items() if codec in match.could_be_from_charset) for match in known]


def _decodes(data: Bytes, encoding: str) -> bool:
    decoder = codecs.getincrementaldecoder(encoding)()
    try:
        for piece in data():
            decoder.decode(piece)
        decoder.decode(b"", final=True)
    except UnicodeError:
        return False
    return True


def _sample(data: Bytes, encoding: str) -> list[str]:
    found: list[str] = []
    for line in _lines(data, encoding):
        if line.strip() or found:
            found.append(line[:20_000])
        if len(found) == _SAMPLE_LINES:
            break
    return found


def _quote(sample: list[str]) -> str:
    """The quote is ", unless cells are wrapped in ' and none in "."""
    wrapped = dict.fromkeys(QUOTES, 0)
    for line in sample:
        for quote in QUOTES:
            wrapped[quote] += sum(line.count(f"{sign}{quote}") + line.count(f"{quote}{sign}") for sign in DELIMITERS)
            wrapped[quote] += line.startswith(quote) + line.rstrip("\r\n").endswith(quote)
    return "'" if wrapped['"'] == 0 and wrapped["'"] >= 2 * max(1, len(sample)) else '"'


def _delimiter(sample: list[str], quote: str) -> str:
    """The sign that tells most lines apart into as many cells as the first one has."""

    def fit(sign: str) -> tuple[float, int]:
        try:
            widths = [len(cells) for cells in csv.reader(sample, delimiter=sign, quotechar=quote) if cells]
        except csv.Error:
            return 0.0, 0
        if not widths or widths[0] < 2:
            return 0.0, 0
        return round(sum(width == widths[0] for width in widths) / len(widths), 1), widths[0]

    return max(DELIMITERS, key=fit)
