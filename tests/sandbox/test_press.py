"""One letter at a time as a PDF, by processes that stay."""

import io
import os
import signal
import subprocess
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import pytest
from pypdf import PdfReader

from tests.sandbox.test_paper import PIXEL
from tests.support.processes import until
from uvarovite.sandbox import press as sandbox
from uvarovite.sandbox.paper import PaperFault, PaperPicture
from uvarovite.sandbox.press import Press, the_press

STYLE = "@page { size: A4; margin: 20mm }"
PICTURE = "https://skarnmuseum.example/p/one.png"


def letter(words: str) -> str:
    return f'<!doctype html><html lang="en"><head><title>{words}</title></head><body><p>{words}</p></body></html>'


def told(pdf: bytes) -> str:
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)


@pytest.fixture
def press() -> Iterator[Press]:
    # That of other tests rests for a while.
    the_press().close()
    made = Press()
    yield made
    made.close()


def working() -> list[int]:
    """The processes that lay letters out for this one."""
    found = subprocess.run(
        ["pgrep", "-P", str(os.getpid()), "-f", "press_child"], capture_output=True, text=True, check=False
    )
    return list(map(int, found.stdout.split()))


def test_a_letter_is_the_same_whatever_was_laid_out_before_it(press: Press) -> None:
    words = "Ζωή, Łucja, 山田, أمل"
    alone = press.pdf(letter(words), STYLE, {})
    assert told(press.pdf(letter("Something else, in bold"), STYLE + " p { font-weight: bold }", {})).startswith("Some")
    again = press.pdf(letter(words), STYLE, {})
    other = Press()
    elsewhere = other.pdf(letter(words), STYLE, {})
    other.close()
    assert alone == again == elsewhere
    assert "Łucja" in told(alone)


def test_only_the_pictures_that_were_given_are_shown(press: Press) -> None:
    shows = letter("Look").replace("</body>", f'<img src="{PICTURE}"><img src="file:///etc/hostname"></body>')
    ours = {PICTURE: PaperPicture(kind="png", content=PIXEL)}
    (page,) = PdfReader(io.BytesIO(press.pdf(shows, STYLE, ours))).pages
    assert len(page.images) == 1
    (page,) = PdfReader(io.BytesIO(press.pdf(shows, STYLE, {}))).pages
    assert len(page.images) == 0


def test_threads_share_two_processes(press: Press) -> None:
    with ThreadPoolExecutor(5) as threads:
        made = list(threads.map(lambda n: press.pdf(letter(f"Walk {n}"), STYLE, {}), range(12)))
    assert [told(one) for one in made] == [f"Walk {n}" for n in range(12)]
    assert len(working()) == 2
    press.close()
    assert working() == []


def test_a_process_that_is_killed_is_replaced(press: Press) -> None:
    press.pdf(letter("One"), STYLE, {})
    (process,) = working()
    os.kill(process, signal.SIGKILL)
    assert told(press.pdf(letter("Two"), STYLE, {})) == "Two"
    assert process not in working()


def test_a_letter_that_takes_too_much_is_refused_and_the_next_one_is_not(
    press: Press, monkeypatch: pytest.MonkeyPatch
) -> None:
    press.pdf(letter("One"), STYLE, {})
    monkeypatch.setattr(sandbox, "LIMITS", replace(sandbox.LIMITS, patience_seconds=2))
    with pytest.raises(PaperFault):
        press.pdf(letter("<table>" + "<tr><td>x" * 60_000), STYLE, {})
    assert working() == []
    monkeypatch.undo()
    assert told(press.pdf(letter("Two"), STYLE, {})) == "Two"


def test_a_process_gives_way_after_its_share_and_rests_no_longer_than_it_should(
    press: Press, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sandbox, "_MOST_BY_ONE", 2)
    press = Press(idle_seconds=0.2)
    press.pdf(letter("One"), STYLE, {})
    first = working()
    press.pdf(letter("Two"), STYLE, {})
    assert working() == []
    press.pdf(letter("Three"), STYLE, {})
    assert set(working()).isdisjoint(first)
    until(lambda: working() == [], "the process to end by itself")
    press.close()
