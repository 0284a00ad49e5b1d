"""A message that goes along as a PDF: its words as they were at the release, and what stands in the way of one."""

import io
from datetime import timedelta

import pytest
from pypdf import PdfReader

from tests.core.test_messages import parse
from tests.support.lens import look
from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph, Picture
from uvarovite.core.messages.attachments import MessagePdf, NamedFile, OwnFiles
from uvarovite.services.campaigns.campaigns import CampaignView
from uvarovite.services.messages.composing import composer_of
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.services.messages.pdfs import press_of
from uvarovite.store.database import run_sql
from uvarovite.store.tables import Run

CARD = MessageContent(subject="Card of @{first_name}", blocks=(Paragraph(text="Number @{contact_no}"),))


def save(museum: Museum, name: str, content: MessageContent, message_id: int | None = None) -> int:
    revision = get_message(museum.database, SYSTEM, message_id).revision if message_id else None
    return save_message(
        museum.database, SYSTEM, message_id=message_id, name=name, content=content, revision=revision, now=NOW
    ).id  # fmt: skip


def show(museum: Museum, message_id: int | None) -> CampaignView:
    content = MessageContent(
        subject="Your card",
        blocks=(Paragraph(text="It goes with this message."),),
        attachments=(MessagePdf(message_id=message_id),),
    )
    save(museum, "Walks", content, museum.message_id)
    return museum.view()


def checks(view: CampaignView) -> dict[str, str]:
    return {one.code: one.message for one in view.checks}


def test_a_pdf_has_the_words_that_its_message_had_at_the_release(museum: Museum) -> None:
    # What goes with the other message stays with it, whoever it is of.
    others = OwnFiles(name="@{contact_no}.pdf", files=(NamedFile(file="ab", name="M-01.pdf"),))
    card = save(museum, "Card", CARD.model_copy(update={"attachments": (others,)}))
    assert not {"pdf_gone", "pdf_faulty", "files_heavy"} & checks(show(museum, card)).keys()
    run_id = museum.release()
    save(museum, "Card", CARD.model_copy(update={"blocks": (Paragraph(text="Other words"),)}), card)
    with museum.database.transaction() as tx:
        run = tx.get(Run, run_id)
        assert run is not None
        assert run.snapshot.shown[card].attachments == ()
        composer = composer_of(tx, run, KEYRING, press=press_of(museum.database))
    made = composer.compose(
        delivery_id=museum.delivery_id(run_id, "M-01"), address="ada@slatepost.example",
        record_json={"contact_no": "M-01", "first_name": "Ada"}, consent_since=None, marked_at=NOW + timedelta(hours=1),
    )  # fmt: skip
    (pdf,) = parse(made.raw).iter_attachments()
    assert pdf.get_filename() == "Card of Ada.pdf"
    (page,) = PdfReader(io.BytesIO(pdf.get_content())).pages
    assert page.extract_text().split("\n")[:2] == ["Card of Ada", "Number M-01"]
    assert [(one.name, one.size) for one in made.read().attached] == [("Card of Ada.pdf", None)]


@pytest.mark.parametrize("faulty", [True, False])
def test_nothing_is_released_with_a_pdf_that_cannot_be_made(museum: Museum, faulty: bool) -> None:
    words = CARD.model_copy(update={"blocks": (Paragraph(text="@{numbre}"),)})
    view = show(museum, save(museum, "Card", words) if faulty else 4_711)
    code, told = ("pdf_faulty", "“Card”") if faulty else ("pdf_gone", "Choose another one.")
    assert told in checks(view)[code]
    assert next(one for one in view.checks if one.code == code).blocking
    # Beside the words the letter is seen all the same, without it.
    words_there = get_message(museum.database, SYSTEM, museum.message_id).content
    _, lens = look(
        museum.database,
        words_there,
        contact_id=museum.contact_id("M-01"),
        topic_id=museum.topic_id,
        keyring=KEYRING,
        now=NOW,
    )
    assert lens.attached == []


def test_pictures_in_a_pdf_weigh_what_they_weigh(museum: Museum) -> None:
    with museum.database.transaction() as tx:
        run_sql(
            tx,
            """INSERT INTO picture (digest, kind, name, width, height, content, created_at)
                SELECT repeat('a', 32), 'jpg', 'walk.jpg', 9, 9, convert_to(repeat('x', 7500000), 'UTF8'), now()""",
        )
    large = Picture(address=f"https://skarnmuseum.example/p/{'a' * 32}.jpg", alt="A walk")
    card = save(museum, "Card", CARD.model_copy(update={"blocks": (*CARD.blocks, large)}))
    assert "at most 7 MB go with a message" in checks(show(museum, card))["files_heavy"]
