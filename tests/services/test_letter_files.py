"""Letters and messages as files: what they hold, who may have them, and that our own format comes back whole."""

import io
import json
from dataclasses import replace
from email import message_from_bytes, policy

import pytest
from pypdf import PdfReader

from tests.support.acting import acting
from tests.support.lens import look
from tests.support.museum import KEYRING, NOW, Museum
from uvarovite.core.accounts import SYSTEM, Role
from uvarovite.core.messages import MessageContent, Paragraph
from uvarovite.core.messages.attachments import AttachedFile, CalendarEntry, MessagePdf
from uvarovite.core.messages.document import OtherWords
from uvarovite.core.messages.message_file import problems_of, read_message_file
from uvarovite.sandbox import press
from uvarovite.sandbox.press import the_press
from uvarovite.services.accounts.audit import audit_page
from uvarovite.services.accounts.permitted import NotAllowed
from uvarovite.services.errors import BadInput
from uvarovite.services.messages.attachments import keep_attachment
from uvarovite.services.messages.from_files import words_from_file
from uvarovite.services.messages.letter_files import LetterForm, letter_file, letter_source, message_file
from uvarovite.services.messages.messages import save_message
from uvarovite.services.messages.one_letter import LetterAsk
from uvarovite.services.messages.tests import prepare_test

PDF = b"%PDF-1.7\n" + bytes(range(256)) * 20


@pytest.fixture
def content(museum: Museum) -> MessageContent:
    plan = keep_attachment(museum.database, SYSTEM, data=PDF, filename="plan.pdf", now=NOW)
    return MessageContent(
        subject='@{first_name else "Hello"}, two walks',
        preheader="Boots and a lamp",
        blocks=(Paragraph(text='Dear @{first_name else "friend"}, your card: @{membership else "none"}.'),),
        needed=("town",),
        others=(OtherWords(language="de", subject="Zwei Wege", blocks=(Paragraph(text="Hallo @{first_name}"),)),),
        attachments=(AttachedFile(file=plan.file), CalendarEntry(title="Walk", day="2027-03-28", time="09:30")),
    )


def ask(museum: Museum, content: MessageContent, contact_no: str = "M-01") -> LetterAsk:
    return LetterAsk(
        content=content, contact_id=museum.contact_id(contact_no), topic_id=museum.topic_id, sender_id=None
    )


def test_a_letter_is_kept_as_a_page_as_text_and_as_the_mail_with_what_is_attached(
    museum: Museum, content: MessageContent
) -> None:
    made = {
        form: letter_file(museum.database, SYSTEM, ask(museum, content), form, keyring=KEYRING, now=NOW)
        for form in LetterForm
    }
    assert {form: one.name for form, one in made.items()} == {form: f"letter.{form}" for form in LetterForm}
    assert b"Dear Ada, your card: Patron." in made[LetterForm.HTML].content
    assert made[LetterForm.HTML].content.startswith(b"<!doctype html>")
    assert made[LetterForm.TEXT].content.decode().startswith("Dear Ada, your card: Patron.")
    (page,) = PdfReader(io.BytesIO(made[LetterForm.PDF].content)).pages
    assert "Dear Ada, your card: Patron." in page.extract_text()
    mail = message_from_bytes(made[LetterForm.MAIL].content, policy=policy.default)
    assert (str(mail["Subject"]), mail["List-Unsubscribe"]) == ("Ada, two walks", None)
    assert [one.get_filename() for one in mail.iter_attachments()] == ["plan.pdf", "invitation.ics"]  # type: ignore[attr-defined]
    assert PDF in [one.get_payload(decode=True) for one in mail.iter_attachments()]  # type: ignore[attr-defined]
    [latest] = audit_page(museum.database, SYSTEM, limit=1).lines
    assert latest.words == f"exported the letter to contact {museum.contact_id('M-01')} as eml"


def test_the_source_is_what_goes_over_the_wire_and_is_quick_with_large_files(
    museum: Museum, content: MessageContent
) -> None:
    source = letter_source(museum.database, acting(1, Role.READER), ask(museum, content), keyring=KEYRING, now=NOW)
    assert "Subject: Ada, two walks\r\n" in source
    assert "Content-Type: application/pdf\r\n" in source
    assert len(source) < len(PDF) + 8_000
    assert "JVBERi0" not in source  # "%PDF-" in base64


def test_a_letter_with_faults_or_in_hands_that_may_not_is_refused(museum: Museum, content: MessageContent) -> None:
    with pytest.raises(NotAllowed):
        letter_file(
            museum.database, acting(1, Role.AUTHOR), ask(museum, content), LetterForm.TEXT, keyring=KEYRING, now=NOW
        )
    faulty = content.model_copy(update={"subject": "@{shoe}"})
    for make in (
        lambda: letter_source(museum.database, SYSTEM, ask(museum, faulty), keyring=KEYRING, now=NOW),
        lambda: letter_file(museum.database, SYSTEM, ask(museum, faulty), LetterForm.MAIL, keyring=KEYRING, now=NOW),
    ):
        with pytest.raises(BadInput, match="Mend this first"):
            make()


def test_a_message_in_our_own_format_comes_back_with_all_but_its_files(museum: Museum, content: MessageContent) -> None:
    saved = save_message(
        museum.database, SYSTEM, message_id=None, name="Two walks", content=content, revision=None, now=NOW
    )
    file = message_file(museum.database, acting(1, Role.READER), saved.id)
    assert file.name == "Two walks.json"
    assert problems_of(read_message_file(file.content)) == []
    read = words_from_file(museum.database, SYSTEM, data=file.content, filename="Two walks.json")
    assert read.name == "Two walks"
    assert read.content == content.model_copy(update={"attachments": content.attachments[1:]})
    told = json.loads(file.content)
    told["content"]["blocks"] = "none"
    with pytest.raises(BadInput, match=r"says that it is a message of ours, and is none: content\.blocks"):
        words_from_file(museum.database, SYSTEM, data=json.dumps(told).encode(), filename="a.json")


def test_the_lens_steps_to_those_who_read_a_fallback(museum: Museum, content: MessageContent) -> None:
    def step(contact_id: int, words: MessageContent, *, fallbacks: bool = True) -> tuple[str | None, int]:
        person, letter = look(
            museum.database, words, topic_id=museum.topic_id, contact_id=contact_id, step=1, fallbacks=fallbacks,
            keyring=KEYRING, now=NOW,
        )  # fmt: skip
        return letter.name, person.total

    ada = museum.contact_id("M-01")
    plain = content.model_copy(update={"needed": (), "others": ()})
    # Only Wren has no first name; everybody has a membership.
    assert step(ada, plain) == step(museum.contact_id("M-04"), plain) == ("Wren", 1)
    assert step(ada, plain, fallbacks=False) == ("Benoît d’Ardoise", 5)
    # In German, which Edda alone reads, nothing has a fallback.
    assert step(ada, content.model_copy(update={"needed": ()})) == ("Wren", 1)
    everything = plain.model_copy(update={"subject": "Walks", "blocks": (Paragraph(text="Dear friends,"),)})
    assert step(ada, everything) == (None, 0)


def test_a_pdf_that_takes_too_much_is_refused_with_words(
    museum: Museum, content: MessageContent, monkeypatch: pytest.MonkeyPatch
) -> None:
    the_press().close()
    # None is given time enough.
    monkeypatch.setattr(press, "LIMITS", replace(press.LIMITS, patience_seconds=0.01))
    asked = ask(museum, content.model_copy(update={"attachments": (MessagePdf(name="card"),)}))
    for form in (LetterForm.PDF, LetterForm.MAIL):
        with pytest.raises(BadInput, match="Shorten them"):
            letter_file(museum.database, SYSTEM, asked, form, keyring=KEYRING, now=NOW)
    with pytest.raises(BadInput, match="Shorten them"):
        prepare_test(
            museum.database, SYSTEM, content=asked.content, contact_id=asked.contact_id, to_address="kim@slatepost.example",
            topic_id=museum.topic_id, sender_id=None, pool_id=None, keyring=KEYRING, test_id="1", now=NOW,
        )  # fmt: skip
