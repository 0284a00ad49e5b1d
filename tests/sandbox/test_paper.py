"""Letters laid out in a process of their own, as a PDF reader finds them."""

import io
import socket

import pytest
from pypdf import PageObject, PdfReader

from tests.core.test_paper import ADA, FACTS, FIELDS, page
from uvarovite.core.messages import MessageContent, Paragraph, Picture
from uvarovite.core.messages.paper import SHEETS, Paper, PaperMaker
from uvarovite.sandbox import paper as sandbox
from uvarovite.sandbox.paper import PaperFault, PaperPicture, lay_out
from uvarovite.sandbox.process import Limits

# A point of red.
PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d4948445200000001000000010802000000907753de"
    "0000000c49444154789c63f8cfc0000003010100c9fe92ef0000000049454e44ae426082"
)
MAKER = PaperMaker(MessageContent(subject="Two walks"), FIELDS)
POINTS = 72 / 25.4


def places(page: PageObject) -> dict[str, tuple[float, float]]:
    """Where each text begins, in millimetres from the upper left corner."""
    found: dict[str, tuple[float, float]] = {}

    def visit(text: str, cm: list[float], tm: list[float], *_: object) -> None:
        if text.strip():
            x, y = tm[4] * cm[0] + cm[4], tm[5] * cm[3] + cm[5]
            found[text.strip()] = (x / POINTS, (float(page.mediabox.height) - y) / POINTS)

    page.extract_text(visitor_text=visit)
    return found


@pytest.mark.parametrize("paper", list(Paper))
def test_an_address_stands_in_the_window_of_its_envelope(paper: Paper) -> None:
    long = {**ADA, "street": "\n".join(f"Line {n}" for n in range(1, 7)), "country": "Germany"}
    letters = [page(one, Paragraph(text="Come along."), paper=paper) for one in (ADA, long)]
    made = lay_out(letters, MAKER.style(paper), {})
    reader, sheet = PdfReader(io.BytesIO(made.pdf)), SHEETS[paper]
    assert made.pages == (1, 1)
    for one, last in zip(reader.pages, ("SK6 9AP", "GERMANY"), strict=True):
        found = places(one)
        for line in ("Ada Wren", last):
            x, y = found[line]
            assert sheet.address_left - 0.5 <= x <= sheet.address_left + sheet.address_width
            assert sheet.address_top < y < sheet.address_top + sheet.address_height
        assert found["Come along."][1] > sheet.begins


def test_letters_begin_on_pages_of_their_own_and_none_is_too_long() -> None:
    long = page(ADA, *(Paragraph(text=f"Walk {n}: " + "along the river " * 20) for n in range(40)))
    endless = page({**ADA, "first_name": "x" * 10_000}, Paragraph(text="Dear @{first_name}"))
    made = lay_out([long, endless, page(ADA, Paragraph(text="The last."))], MAKER.style(Paper.DIN), {})
    reader = PdfReader(io.BytesIO(made.pdf))
    assert len(reader.pages) == sum(made.pages)
    assert made.pages[0] > 3
    assert "The last." in reader.pages[-1].extract_text()
    assert f"3 / {made.pages[0]}" in reader.pages[2].extract_text()
    assert "1 / 1" not in reader.pages[-1].extract_text()


def test_what_was_not_given_is_never_fetched() -> None:
    ours = "https://skarnmuseum.example/p/one.png"
    with socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        listening.listen()
        listening.settimeout(0)
        other = f"http://127.0.0.1:{listening.getsockname()[1]}/theirs.png"
        blocks = [Picture(address=address, alt=f"a picture at {address}", width=100) for address in (ours, other)]
        letter = page(ADA, *blocks).replace("</body>", '<img src="file:///etc/hostname" alt="a file"></body>')
        made = lay_out([letter], MAKER.style(Paper.DIN), {ours: PaperPicture(kind="png", content=PIXEL)})
        with pytest.raises(BlockingIOError):
            listening.accept()
    only = PdfReader(io.BytesIO(made.pdf)).pages[0]
    assert [image.image.size for image in only.images if image.image] == [(1, 1)]
    assert other.removeprefix("http://") in only.extract_text().replace("\n", "")


def test_what_takes_too_much_ends_the_child_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    small = Limits(memory_bytes=6 * 1024**3, cpu_seconds=1, output_bytes=1 << 20, patience_seconds=30, files=128)
    monkeypatch.setattr(sandbox, "LIMITS", small)
    told: list[int] = []
    with pytest.raises(PaperFault):
        lay_out([page(ADA, Paragraph(text="Come."))] * 500, MAKER.style(Paper.DIN), {}, hears=told.append)
    assert all(0 < done < 500 for done in told)


def test_the_way_back_and_the_day_stand_on_each_letter() -> None:
    made = lay_out([page(ADA, Paragraph(text="Come along."))], MAKER.style(Paper.US), {})
    text = PdfReader(io.BytesIO(made.pdf)).pages[0].extract_text()
    assert "Skarn Museum · 1 Slate Row · SK1 2AB Skarn" in text
    assert "29 November 2026" in text
    assert f"{FACTS.organisation} writes to you on paper because we have no e-mail address of yours." in text


def test_several_processes_make_one_pdf_and_end_when_nobody_wants_it(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sandbox, "_WORTH_ONE", 12)
    letters = [page(ADA, Paragraph(text=f"This is letter {n}.")) for n in range(25)]
    told: list[int] = []
    made = lay_out(letters, MAKER.style(Paper.DIN), {}, hears=told.append)
    texts = [one.extract_text() for one in PdfReader(io.BytesIO(made.pdf)).pages]
    assert len(made.pages) == 25
    assert all(f"This is letter {n}." in text for n, text in enumerate(texts))
    assert told == sorted(told)

    class Unwanted(Exception):
        pass

    def not_wanted(done: int) -> None:
        raise Unwanted

    with pytest.raises(Unwanted):
        lay_out(letters, MAKER.style(Paper.DIN), {}, hears=not_wanted)
