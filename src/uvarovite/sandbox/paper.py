"""Letters laid out on paper in processes of their own, with limits on memory, time and output; they reach no network."""

import base64
import io
import json
import os
import tempfile
import threading
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import orjson

from uvarovite.sandbox.process import Limits, run_child

# So many letters are laid out at once: each takes half a megabyte of memory until all are written.
MOST_LETTERS = 2_000
LIMITS = Limits(memory_bytes=6 * 1024**3, cpu_seconds=1_800, output_bytes=512 << 20, patience_seconds=3_600, files=128)
# A page takes 60 ms of one core, so that several share the work; each of them takes a second to begin.
_MOST_PROCESSES, _WORTH_ONE = 4, 50


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
    letters: Sequence[str],
    style: str,
    pictures: Mapping[str, PaperPicture],
    *,
    hears: Callable[[int], None] = lambda _: None,
) -> PaperFile:
    """One PDF of all letters (whole HTML documents, at least one); `pictures` by their address, no other is shown.

    `hears` is told how many are laid out, now and then, by one thread at a time. Raises PaperFault; what `hears` raises
    ends it.
    """
    told = {
        address: [picture.kind, base64.b64encode(picture.content).decode()] for address, picture in pictures.items()
    }
    head = orjson.dumps({"style": style, "pictures": told}) + b"\n"
    processes = max(1, min(_MOST_PROCESSES, len(os.sched_getaffinity(0)), len(letters) // _WORTH_ONE))
    share = -(-len(letters) // processes)
    shares = [letters[begin : begin + share] for begin in range(0, len(letters), share)]
    progress = _Progress(len(shares), hears)

    def made_of(share: int) -> PaperFile:
        try:
            return _share(head, shares[share], progress.of(share))
        except BaseException as fault:
            progress.ended_by = progress.ended_by or fault
            raise

    with ThreadPoolExecutor(len(shares)) as threads:
        made = list(threads.map(made_of, range(len(shares))))
    return made[0] if len(made) == 1 else _joined(made)


class _Progress:
    """What several processes have done together. What one was ended by ends the others at their next word."""

    def __init__(self, shares: int, hears: Callable[[int], None]) -> None:
        self._done = [0] * shares
        self._hears = hears
        self._lock = threading.Lock()
        self.ended_by: BaseException | None = None

    def of(self, share: int) -> Callable[[int], None]:
        """What the process of a share tells."""

        def told(done: int) -> None:
            with self._lock:
                if self.ended_by:
                    raise self.ended_by
                self._done[share] = done
                try:
                    self._hears(sum(self._done))
                except BaseException as fault:
                    # Before anybody else is let in.
                    self.ended_by = fault
                    raise

        return told


def _share(head: bytes, letters: Sequence[str], told: Callable[[int], None]) -> PaperFile:
    def heard(line: bytes) -> None:
        # The libraries below may have something to say as well.
        if line.strip().isdigit():
            told(int(line))

    with tempfile.TemporaryFile() as given, tempfile.TemporaryFile() as out:
        given.write(head)
        given.writelines(orjson.dumps(letter) + b"\n" for letter in letters)
        given.seek(0)
        ended = run_child("uvarovite.sandbox.paper_child", given, out, LIMITS, hears=heard)
        out.seek(0)
        first = out.readline()
        if ended != 0 or not first:
            raise PaperFault
        return PaperFile(pdf=out.read(), pages=tuple(json.loads(first)["pages"]))


def _joined(made: Sequence[PaperFile]) -> PaperFile:
    # Half a second, which whoever lays nothing out need not wait for.
    from pypdf import PdfWriter

    whole, out = PdfWriter(), io.BytesIO()
    for one in made:
        whole.append(io.BytesIO(one.pdf), import_outline=False)
    whole.write(out)
    return PaperFile(pdf=out.getvalue(), pages=tuple(pages for one in made for pages in one.pages))
