"""Pictures that go along with a letter: where they are shown they are within it, and nothing else of it changes."""

import re
from email.message import EmailMessage

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.test_inlay import context, hostile
from tests.core.test_messages import ENVELOPE, FOOTER, LINKS, parse
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.messages import Button, LetterMaker, MessageContent, Paragraph, check_message
from uvarovite.core.messages.attachments import AttachedFile, KeptFile
from uvarovite.core.messages.blocks import Arm, Only, Picture
from uvarovite.core.messages.document import OtherWords
from uvarovite.core.messages.kept_pictures import content_id, embedded_digests, kept_digest, picture_address

OWL, BAT, MAP = "0" * 31 + "1", "0" * 31 + "2", "0" * 31 + "3"
HERE = "https://museum.example:8040"
BYTES = {
    OWL: b"\x89PNG\r\n\x1a\n" + bytes(range(256)),
    BAT: b"\xff\xd8\xff" + bytes(300),
    MAP: b"GIF89a" + bytes(range(99)),
    "ab": b"%PDF-1.7",
}
KINDS = {OWL: "png", BAT: "jpg", MAP: "gif", "ab": "pdf"}
FILES = {one: KeptFile(kind=KINDS[one], name="x", size=len(data), content=data) for one, data in BYTES.items()}


def picture(digest: str, *, embedded: bool = True, link: str = "") -> Picture:
    address = picture_address(HERE, digest, KINDS[digest])
    return Picture(address=address, alt="What is on it", embedded=embedded, link=link)


CONTENT = MessageContent(
    subject="Owls",
    blocks=(
        Button(label="Before", url=f"{HERE}/before"),
        picture(OWL, link=f"{HERE}/owls?card=@{{contact_no}}"),
        Only(arms=(Arm(criteria='town is "Skarn"', blocks=(picture(BAT),)),), otherwise=(Paragraph(text="No bat."),)),
        picture(MAP, embedded=False),
        Button(label="Behind", url=f"{HERE}/behind"),
    ),
)


def mail(record: Record, content: MessageContent = CONTENT) -> EmailMessage:
    made = LetterMaker(content, FIELDS, files=FILES).raw(record, context(), LINKS, FOOTER, ENVELOPE)
    assert made.isascii()
    assert all(len(line) <= 998 for line in made.split(b"\r\n"))
    return parse(made)


def along(message: EmailMessage) -> dict[str, bytes]:
    """What is within a letter besides its words, by content id."""
    found = {}
    for part in message.walk():
        if part.get_content_maintype() == "image":
            assert part.get_content_disposition() == "inline"
            found[str(part["Content-ID"])[1:-1]] = bytes(part.get_payload(decode=True))  # type: ignore[arg-type]
    return found


def html_of(message: EmailMessage) -> str:
    body = message.get_body(("html",))
    assert body is not None
    return str(body.get_content()).replace("\r\n", "\n")


def test_whoever_is_shown_a_picture_has_it_within_the_letter() -> None:
    ids = {one: content_id(picture(one).address, one) for one in (OWL, BAT, MAP)}
    in_skarn, elsewhere = mail({**ADA, "town": "Skarn"}), mail(NOBODY)
    assert along(in_skarn) == {ids[OWL]: BYTES[OWL], ids[BAT]: BYTES[BAT]}
    assert along(elsewhere) == {ids[OWL]: BYTES[OWL]}
    for message in (in_skarn, elsewhere):
        assert [part.get_content_type() for part in message.walk()][:4] == [
            "multipart/alternative", "text/plain", "multipart/related", "text/html",
        ]  # fmt: skip
        html = html_of(message)
        for one, called in ids.items():
            assert (f'src="cid:{called}"' in html) == (called in along(message))
            assert (f"/p/{one}." in html) == (one == MAP)


def test_nothing_else_of_a_letter_is_another_for_it() -> None:
    blocks = (CONTENT.blocks[0], picture(OWL, embedded=False, link=f"{HERE}/owls?card=@{{contact_no}}"))
    elsewhere = {**ADA, "town": "Breccia"}
    fetched = mail(elsewhere, CONTENT.model_copy(update={"blocks": (*blocks, *CONTENT.blocks[2:])}))
    within = mail(elsewhere)
    address, called = picture(OWL).address, content_id(picture(OWL).address, OWL)
    assert along(within)
    # Links have the same numbers, also behind the picture and on it.
    assert html_of(within).replace(f"cid:{called}", address) == html_of(fetched)
    # Whoever looks at a letter in a browser fetches all of its pictures.
    read = LetterMaker(CONTENT, FIELDS, files=FILES).render(elsewhere, context(), LINKS, FOOTER)
    assert read.html.rstrip() == html_of(fetched).rstrip()
    assert LetterMaker(CONTENT, FIELDS).render(elsewhere, context(), LINKS, FOOTER) == read


def test_what_is_not_kept_any_more_is_fetched_and_what_is_attached_stands_beside() -> None:
    attached = CONTENT.model_copy(update={"attachments": (AttachedFile(file="ab"),)})
    message = mail(ADA, attached)
    assert [part.get_content_type() for part in message.iter_attachments()] == ["application/pdf"]
    assert len(along(message)) == 2
    gone = parse(LetterMaker(CONTENT, FIELDS, files={}).raw(ADA, context(), LINKS, FOOTER, ENVELOPE))
    assert along(gone) == {}
    assert picture(OWL).address in html_of(gone)


def test_each_language_has_its_own_pictures_and_none_that_it_was_made_from() -> None:
    first = MessageContent(subject="Owls", language="en", blocks=(Paragraph(text="Owls"), picture(OWL)))
    basis = {"subject": "", "preheader": "", "blocks": (picture(MAP),)}
    polish = OtherWords(language="pl", subject="Sowy", blocks=(Paragraph(text="Sowy"), picture(BAT)), basis=basis)  # type: ignore[arg-type]
    both = first.model_copy(update={"others": (polish,)})
    assert embedded_digests(both.model_dump(mode="json")) == [OWL, BAT]
    assert list(along(mail({**ADA, "language": "pl"}, both)).values()) == [BYTES[BAT]]
    assert list(along(mail({**ADA, "language": "de"}, both)).values()) == [BYTES[OWL]]


@given(hostile)
def test_no_value_changes_what_goes_along(value: str) -> None:
    record = {**NOBODY, "first_name": value, "contact_no": value, "town": value}
    assert along(mail(record)) == along(mail({**record, "first_name": "x", "contact_no": "x"}))


@pytest.mark.parametrize(
    "address", ["https://elsewhere.example/owl.png", f"{HERE}/p/{OWL[:30]}.png", f"{HERE}/p/@{{town}}/{OWL}.png"]
)
def test_only_what_is_kept_here_can_go_along(address: str) -> None:
    one = Picture(address=address, alt="An owl", embedded=True)
    [found] = check_message(CONTENT.model_copy(update={"blocks": (Paragraph(text="x"), one)}), FIELDS)
    assert (found.part, found.problem.code) == ("blocks.1.address", "not_kept")
    fetched = one.model_copy(update={"embedded": False})
    assert check_message(CONTENT.model_copy(update={"blocks": (Paragraph(text="x"), fetched)}), FIELDS) == []
    assert check_message(CONTENT, FIELDS) == []


@given(st.text(max_size=60) | st.text(alphabet="[]:.@%/ab", max_size=12))
@example("[x")
@example("[::1]:8040")
def test_a_picture_is_called_by_what_stands_in_a_header(host: str) -> None:
    called = content_id(f"https://{host}/p/{OWL}.png", OWL)
    # A name of an address as headers have it (RFC 5322, section 3.2.3).
    assert re.fullmatch(rf"{OWL}@[a-z0-9-]+(\.[a-z0-9-]+)*", called)
    assert kept_digest(picture_address("https://museum.example/", OWL, "png")) == OWL
