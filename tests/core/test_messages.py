"""Messages: both renderings from one document, the checks, and the bytes on the wire."""

import re
from datetime import UTC, date, datetime
from email import message_from_bytes, policy
from email.message import EmailMessage

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_inlay import context
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.inlay import header
from uvarovite.core.messages import (
    Button,
    Divider,
    Envelope,
    Footer,
    Heading,
    LetterMaker,
    Links,
    MessageContent,
    Paragraph,
    RenderedMessage,
    check_message,
    fields_without_fallback,
    plain_links,
)
from uvarovite.core.messages.document import written_parts
from uvarovite.core.messages.lens import lens_mark

CONTENT = MessageContent(
    subject='@{first_name else "Hello"}, two walks',
    preheader="Since @{renews_on}",
    blocks=(
        Heading(text="The Scree Path"),
        Paragraph(text='Dear @{first_name else "friend"},\nyour pledge of @{pledge} keeps <us> & you'),
        Button(label="Choose", url="https://museum.example/walks?town=@{town}&card=@{contact_no}"),
        Divider(),
        Button(label="Write to us", url="mailto:walks@museum.example"),
    ),
)
FOOTER = Footer(topic="Field walks", since=date(2025, 3, 12), organisation="The Museum", postal_address="1 Slate Row")
LINKS = Links(
    click=lambda number, address: f"https://t.example/r/{number}",
    unsubscribe="https://t.example/u/token",
    pixel="https://t.example/o/token.gif",
)
ENVELOPE = Envelope(
    message_id="1.2.field_walks@museum.example",
    date=datetime(2026, 11, 23, 9, tzinfo=UTC),
    from_name="Skarn Valley Mineral Museum",
    from_address="walks@museum.example",
    to_name="Ζωή Καλλέργη",
    to_address="zoe@slatepost.example",
    reply_to="answers@museum.example",
    list_id="field_walks.museum.example",
    unsubscribe_url="https://t.example/u/" + "t" * 200,
)


def render(record: Record = ADA, language: str = "en", links: Links = LINKS) -> RenderedMessage:
    return LetterMaker(CONTENT, FIELDS).render(record, context(language), links, FOOTER)


def test_html_and_text_say_the_same() -> None:
    message = render()
    for words in ("The Scree Path", "Dear Ada,", "€1,250.50", "Choose", "Field walks", "12 March 2025", "1 Slate Row"):
        assert words in message.text
        assert words in message.html
    assert "keeps &lt;us&gt; &amp; you" in message.html
    assert "keeps <us> & you" in message.text
    assert message.subject == "Ada, two walks"


def test_links_are_numbered_and_merged_and_tracked_in_both_renderings() -> None:
    message = render({**ADA, "town": "Upper & Gossan?x=1"})
    assert message.addresses[0] == "https://museum.example/walks?town=Upper%20%26%20Gossan%3Fx%3D1&card=M-01"
    assert re.findall(r'<a href="([^"]+)"', message.html) == [
        "https://t.example/r/0",
        "https://t.example/r/1",
        "https://t.example/u/token",
    ]
    assert "https://t.example/r/0" in message.text
    assert 'src="https://t.example/o/token.gif"' in message.html


def test_a_preview_tracks_nothing_and_lets_nobody_leave() -> None:
    message = render(links=plain_links())
    assert "<img" not in message.html
    assert "/u/" not in message.html
    assert "https://museum.example/walks?town=Skarn" in message.text


@pytest.mark.parametrize(
    ("language", "words"),
    [
        ("de", "weil Sie am 12. März 2025"),
        ("fr", "le 12 mars 2025"),
        ("pl", "12 marca 2025"),
        ("nl", "op 12 maart 2025"),
        ("es", "el 12 de marzo de 2025"),
        ("it", "in data 12 marzo 2025"),
        ("el", "στις 12 Μαρτίου 2025"),
        # Without words of its own the footer is English from its first word to its last.
        ("ar", "because you chose “Field walks” on March 12, 2025"),
        ("sv", "chose “Field walks” on March 12, 2025"),
    ],
)
def test_the_footer_speaks_the_messages_language(language: str, words: str) -> None:
    message = render(language=language)
    assert words in message.text
    assert f'lang="{language}" dir="{"rtl" if language == "ar" else "ltr"}"' in message.html


def test_the_lens_marks_what_is_the_persons_own_and_what_is_a_fallback() -> None:
    compiled = LetterMaker(CONTENT, FIELDS)
    own = compiled.render(ADA, context(), plain_links(), FOOTER, lens_mark).html
    blank = compiled.render(NOBODY, context(), plain_links(), FOOTER, lens_mark).html
    marked = re.findall(
        r'<span class="inlay (\w+)" data-field="first_name" data-part="(blocks\.\d\.text)" '
        r'data-from="(\d+)" data-to="(\d+)" title="([^"]*)">(\w+)</span>',
        own + blank,
    )
    assert [(kind, title, text) for kind, *_, title, text in marked] == [
        ("value", "first_name: Ada", "Ada"),
        ("fallback", "first_name: blank", "friend"),
    ]
    for _, part, begin, end, *_ in marked:
        [written] = [one.source for one in written_parts(CONTENT, FIELDS) if one.path == part]
        assert written[int(begin) : int(end)] == '@{first_name else "friend"}'
    assert "inlay" not in compiled.render(ADA, context(), plain_links(), FOOTER).html


FAULTY: list[tuple[dict[str, object], str, str]] = [
    ({"subject": "  "}, "subject", "no_subject"),
    ({"subject": "@{firstname}"}, "subject", "unknown_field"),
    ({"preheader": "@{"}, "preheader", "open_inlay"),
    ({"blocks": ()}, "blocks", "no_words"),
    ({"language": "xx"}, "language", "language"),
    ({"blocks": (Paragraph(text="@{town as money}"),)}, "blocks.0.text", "format_type"),
    ({"blocks": (Paragraph(text="x"), Button(label="a", url=""))}, "blocks.1.url", "bad_link"),
    ({"blocks": (Paragraph(text="x"), Button(label="a", url="@{town}"))}, "blocks.1.url", "bad_link"),
    ({"blocks": (Paragraph(text="x"), Button(label="a", url="javascript:alert(1)"))}, "blocks.1.url", "bad_link"),
    ({"blocks": (Paragraph(text="x"), Button(label="a", url="https://a.example/ b"))}, "blocks.1.url", "bad_link"),
    *[
        ({"blocks": (Paragraph(text="x"), Button(label="a", url=url))}, "blocks.1.url", "bad_link")
        for url in (
            "https://@{town}/walks",
            "https://walks.@{town}",
            "https://@{town}",
            "https://a.example:@{town}/x",
            "https://a.example\\@{town}",
            "https://a.example\\x",
            "mailto:@{town}",
            "mailto:us@{town}?subject=x",
        )
    ],
]


@pytest.mark.parametrize(("change", "part", "code"), FAULTY)
def test_what_is_wrong_with_the_words_is_found_at_its_part(change: dict[str, object], part: str, code: str) -> None:
    found = check_message(CONTENT.model_copy(update=change), FIELDS)
    assert [(one.part, one.problem.code) for one in found] == [(part, code)]
    assert check_message(CONTENT, FIELDS) == []


def test_a_field_that_a_message_needs_has_to_be_there() -> None:
    assert check_message(CONTENT.model_copy(update={"needed": ("town",)}), FIELDS) == []
    (found,) = check_message(CONTENT.model_copy(update={"needed": ("town", "shoe_size")}), FIELDS)
    assert (found.part, found.problem.code) == ("needed", "needed")
    assert "shoe_size" in found.problem.message


def test_a_hole_is_an_insert_without_fallback_that_no_condition_guards() -> None:
    guarded = Paragraph(text="@{if town is not blank}@{town}@{end} @{last_name}")
    content = CONTENT.model_copy(update={"blocks": (*CONTENT.blocks, guarded)})
    assert fields_without_fallback(content, FIELDS) == [
        ("preheader", "renews_on"),
        ("blocks.1.text", "pledge"),
        ("blocks.2.url", "town"),
        ("blocks.2.url", "contact_no"),
        ("blocks.5.text", "last_name"),
    ]


def test_a_buttons_label_is_words_like_any_other() -> None:
    def of(label: str) -> MessageContent:
        return CONTENT.model_copy(
            update={"blocks": (Paragraph(text="x"), Button(label=label, url="https://a.example"))}
        )

    own = of('For @{first_name else "you"} <only>')
    assert check_message(own, FIELDS) == []
    for record, name in ((ADA, "Ada"), (NOBODY, "you")):
        made = LetterMaker(own, FIELDS).render(record, context(), LINKS, FOOTER)
        assert f">For {name} &lt;only&gt;</a>" in made.html
        assert f"For {name} <only>" in made.text
    found = check_message(of("@{firstname}"), FIELDS)
    assert [(one.part, one.problem.code) for one in found] == [("blocks.1.label", "unknown_field")]
    assert ("blocks.1.label", "town") in fields_without_fallback(of("In @{town}"), FIELDS)


def parse(raw: bytes) -> EmailMessage:
    found = message_from_bytes(raw, policy=policy.default)
    assert isinstance(found, EmailMessage)
    assert found.defects == []
    return found


def raw(content: MessageContent, envelope: Envelope, record: Record = ADA) -> bytes:
    return LetterMaker(content, FIELDS).raw(record, context(), LINKS, FOOTER, envelope)


def test_the_bytes_say_who_writes_to_whom_and_how_one_leaves() -> None:
    mail = parse(raw(CONTENT, ENVELOPE))
    assert str(mail["From"]) == "Skarn Valley Mineral Museum <walks@museum.example>"
    assert str(mail["To"]) == "Ζωή Καλλέργη <zoe@slatepost.example>"
    assert mail["Reply-To"].addresses[0].addr_spec == "answers@museum.example"
    assert mail["List-Unsubscribe"] == f"<{ENVELOPE.unsubscribe_url}>"
    assert mail["List-Unsubscribe-Post"] == "List-Unsubscribe=One-Click"
    assert mail["List-Id"] == "<field_walks.museum.example>"
    assert mail["Bcc"] is None
    assert mail["Cc"] is None
    assert [part.get_content_type() for part in mail.iter_parts()] == ["text/plain", "text/html"]


def test_a_test_send_is_no_bulk_mail() -> None:
    mail = parse(raw(CONTENT, ENVELOPE._replace(list_id=None, unsubscribe_url=None)))
    assert mail["List-Unsubscribe"] is None
    assert mail["List-Unsubscribe-Post"] is None


names = st.text(alphabet="aZ éßλ中ع\"'<>,;:@\\()\r\n\t\0=?", max_size=40)


@given(names, names, st.integers(0, 300))
def test_any_name_and_subject_give_a_legal_message_and_no_header_of_their_own(
    name: str, subject: str, length: int
) -> None:
    record: Record = {**ADA, "first_name": name + "x" * length, "town": f"{name}\n.\n..\n"}
    content = CONTENT.model_copy(
        update={"subject": "@{first_name}, @{town}", "blocks": (Paragraph(text="a @{town} b@{first_name}c"),)}
    )
    envelope = ENVELOPE._replace(to_name=name, from_name=subject)
    made = raw(content, envelope, record)
    assert made == raw(content, envelope, record)
    assert made.isascii()
    assert all(len(line) <= 998 for line in made.split(b"\r\n"))
    assert b"\n" not in made.replace(b"\r\n", b"")
    mail = parse(made)
    assert [key for key, _ in mail.items()] == [
        "Date", "Message-ID", "List-Id", "List-Unsubscribe", "List-Unsubscribe-Post", "From", "Reply-To", "To", "Subject",
        "MIME-Version", "Content-Type",
    ]  # fmt: skip
    assert [one.addr_spec for one in mail["To"].addresses] == ["zoe@slatepost.example"]
    for header_name, said in (("To", name), ("From", subject)):
        (mailbox,) = mail[header_name].addresses
        assert mailbox.display_name.split() == header(said).split()
    read = LetterMaker(content, FIELDS).render(record, context(), LINKS, FOOTER)
    assert " ".join(str(mail["Subject"]).split()) == " ".join(read.subject.split())
    for kind, text in (("plain", read.text), ("html", read.html)):
        part = mail.get_body((kind,))
        assert part is not None
        assert part.get_content().replace("\r\n", "\n") == text.replace("\r\n", "\n").replace("\r", "\n")
        assert all(len(line) <= 76 for line in part.get_payload().splitlines())


def test_an_address_in_other_letters_is_sent_in_their_form() -> None:
    mail = parse(raw(CONTENT, ENVELOPE._replace(to_address="ada@bücher.example")))
    assert mail["To"].addresses[0].addr_spec == "ada@xn--bcher-kva.example"
    utf8 = raw(CONTENT, ENVELOPE._replace(to_address="ünal@slatepost.example"))
    assert "ünal@slatepost.example".encode() in utf8
