"""Letters laid out on paper in a process of its own, with limits on memory, time and output; it reaches no network."""

import base64
import json
import tempfile
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

import orjson

from uvarovite.sandbox.process import Limits, run_child

# So many letters are laid out at once: each takes half a megabyte of memory until all are written.
MOST_LETTERS = 2_000
LIMITS = Limits(memory_bytes=6 * 1024**3, cpu_seconds=1_800, output_bytes=512 << 20, patience_seconds=3_600, files=128)


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperPicture:
    """A picture that letters show; `kind` is jpg, png or gif."""

    kind: str
    content: bytes


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperFile:
    """A PDF, and how many pages each letter has in it, in order."""

    pdf: bytes
    pages: tuple[int, ...]


class PaperFault(Exception):
    """The letters could not be laid out: they took too much memory or time. Whose doing: the words'."""


def lay_out(
    letters: Iterable[str],
    style: str,
    pictures: Mapping[str, PaperPicture],
    *,
    hears: Callable[[int], None] | None = None,
) -> PaperFile:
    """One PDF of all letters (whole HTML documents); `pictures` by their address, no other is shown.

    `hears` is told how many are laid out, now and then. Raises PaperFault; what `hears` raises ends it.
    """
    told = {
        address: [picture.kind, base64.b64encode(picture.content).decode()] for address, picture in pictures.items()
    }

    def progress(line: bytes) -> None:
        # The libraries below may have something to say as well.
        if hears and line.strip().isdigit():
            hears(int(line))

    with tempfile.TemporaryFile() as given, tempfile.TemporaryFile() as out:
        given.write(orjson.dumps({"style": style, "pictures": told}) + b"\n")
        given.writelines(orjson.dumps(letter) + b"\n" for letter in letters)
        given.seek(0)
        ended = run_child("uvarovite.sandbox.paper_child", given, out, LIMITS, hears=progress)
        out.seek(0)
        first = out.readline()
        if ended != 0 or not first:
            raise PaperFault
        return PaperFile(pdf=out.read(), pages=tuple(json.loads(first)["pages"]))
