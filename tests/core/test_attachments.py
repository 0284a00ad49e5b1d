"""Attachments on the wire: whole, named as written, and never more headers than there are; calendars read the entries."""

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from email.message import EmailMessage
from zoneinfo import ZoneInfo

import icalendar
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.test_inlay import context, hostile
from tests.core.test_messages import CONTENT, ENVELOPE, FOOTER, LINKS, parse
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.messages import LetterMaker, MessageContent, Paragraph, Passage, check_message
from uvarovite.core.messages.attachments import (
    AttachedFile,
    Attachment,
    AttachmentFault,
    CalendarEntry,
    KeptFile,
    MessagePdf,
    NamedFile,
    OwnFiles,
    checked_file,
    encoded_size,
)
from uvarovite.core.messages.attachments.calendar import Entry, calendar_file
from uvarovite.core.messages.document import OtherWords
from uvarovite.core.messages.headers import parameter
from uvarovite.core.messages.paper import PdfMeans
from uvarovite.core.messages.proof_sheet import digest_of

PDF = b"%PDF-1.7\n" + bytes(range(256)) * 40
FILES = {"ab": KeptFile(kind="pdf", name="walks 2027.pdf", size=len(PDF), content=PDF)}
WALK = CalendarEntry(title="Walk for @{first_name}", place="Quarry gate, Skarn", day="2027-03-28", time="09:30")


def with_attached(*attachments: Attachment) -> MessageContent:
    return CONTENT.model_copy(update={"attachments": attachments})


def mail(record: Record, *attachments: Attachment) -> EmailMessage:
    maker = LetterMaker(with_attached(*attachments), FIELDS, files=FILES)
    made = maker.raw(record, context(), LINKS, FOOTER, ENVELOPE)
    assert made == maker.raw(record, context(), LINKS, FOOTER, ENVELOPE)
    assert made.isascii()
    assert all(len(line) <= 998 for line in made.split(b"\r\n"))
    return parse(made)


def attached(record: Record, *attachments: Attachment) -> list[tuple[str | None, str, bytes]]:
    """(name, type, bytes) of what a mail program finds attached."""
    found = mail(record, *attachments).iter_attachments()
    return [(one.get_filename(), one.get_content_type(), one.get_payload(decode=True)) for one in found]  # type: ignore[misc]


def entry_of(record: Record, entry: CalendarEntry) -> icalendar.Event:
    [(name, kind, data)] = attached(record, entry)
    assert (name, kind) == ("invitation.ics", "text/calendar")
    [event] = icalendar.Calendar.from_ical(data).walk("VEVENT")
    return event


def test_a_letter_with_attachments_reads_as_it_does_without() -> None:
    with_them, without = mail(ADA, AttachedFile(file="ab"), WALK), mail(ADA)
    assert (with_them.get_content_type(), without.get_content_type()) == ("multipart/mixed", "multipart/alternative")
    for kind in ("plain", "html"):
        parts = [one.get_body((kind,)) for one in (with_them, without)]
        assert parts[0] is not None
        assert parts[1] is not None
        assert parts[0].get_content() == parts[1].get_content()
    read = LetterMaker(with_attached(AttachedFile(file="ab"), WALK), FIELDS, files=FILES).render(
        ADA, context(), LINKS, FOOTER
    )
    assert next((one.name, one.size) for one in read.attached) == ("walks 2027.pdf", len(PDF))
    assert len(read.attached) == 2


@given(hostile, st.text(alphabet="aZ é中ع\"'<>;=*%:/\\()\r\n\t\u202e.", max_size=90))
def test_a_file_comes_whole_under_a_name_that_shows_its_ending(town: str, name: str) -> None:
    [(shown, kind, data)] = attached(
        {**ADA, "town": town}, AttachedFile(file="ab", name=name.replace("@", "") + "@{town}")
    )
    assert (kind, data) == ("application/pdf", PDF)
    assert shown is not None
    assert shown.endswith(".pdf")
    assert not set(shown) & set('\u202e/\\\r\n\t\0"')
    assert 4 < len(shown) <= 124


def test_a_file_without_a_name_of_its_own_keeps_the_one_that_it_had() -> None:
    assert [one[0] for one in attached(ADA, AttachedFile(file="ab"))] == ["walks 2027.pdf"]
    assert [one[0] for one in attached(ADA, AttachedFile(file="ab", name="Plan.PDF"))] == ["Plan.pdf"]
    assert [one[0] for one in attached(ADA, AttachedFile(file="ab", name="Plán för @{first_name}"))] == [
        "Plán för Ada.pdf"
    ]
    # What is not kept any more goes with nobody, and breaks nothing.
    assert attached(ADA, AttachedFile(file="cd")) == []


def test_an_entry_is_at_the_hour_of_the_organisation_in_summer_and_in_winter() -> None:
    for day, hour in (("2027-03-27", 9), ("2027-03-28", 8)):
        event = entry_of(ADA, WALK.model_copy(update={"day": day, "minutes": 150}))
        begins = datetime.combine(date.fromisoformat(day), datetime.min.time(), UTC).replace(hour=hour, minute=30)
        assert event.decoded("DTSTART") == begins
        assert event.decoded("DTEND") - event.decoded("DTSTART") == timedelta(minutes=150)
    assert str(event["SUMMARY"]) == "Walk for Ada"
    assert str(event["LOCATION"]) == "Quarry gate, Skarn"
    assert event.decoded("DTSTAMP") == ENVELOPE.date


def test_an_entry_on_a_day_of_ones_own_goes_to_those_who_have_one() -> None:
    entry = CalendarEntry(title="Renewal", day="renews_on")
    assert entry_of(ADA, entry).decoded("DTSTART") == ADA["renews_on"]
    assert attached(NOBODY, entry) == []
    seen = {**ADA, "last_seen": datetime(2027, 6, 1, 22, 30, tzinfo=UTC)}
    at_its_hour = entry_of(seen, CalendarEntry(title="Again", day="last_seen"))
    assert at_its_hour.decoded("DTSTART") == seen["last_seen"]
    zone = context().clock.now.tzinfo
    assert isinstance(zone, ZoneInfo)
    at_ours = entry_of(seen, CalendarEntry(title="Again", day="last_seen", time="07:15"))
    local = datetime(2027, 6, 1, 22, 30, tzinfo=UTC).astimezone(zone).replace(hour=7, minute=15)
    assert at_ours.decoded("DTSTART") == local.astimezone(UTC)


@given(st.text(max_size=120), st.text(max_size=120))
def test_no_words_make_a_line_of_a_calendar_file(title: str, note: str) -> None:
    moment = datetime(2027, 3, 1, 9, tzinfo=UTC)
    entry = Entry(uid="1@x", title=title, place=f"{title}\nEND:VEVENT", note=note, begins=moment, minutes=60)
    file = calendar_file(entry, organisation=title, made_at=moment)
    assert all(len(line.encode("utf-8", "replace")) <= 75 for line in file.split("\r\n"))
    names = [line.partition(":")[0].partition(";")[0] for line in file.replace("\r\n ", "").split("\r\n")]
    wanted = [
        "BEGIN",
        "VERSION",
        "PRODID",
        "METHOD",
        "BEGIN",
        "UID",
        "DTSTAMP",
        "DTSTART",
        "DTEND",
        "SUMMARY",
        "LOCATION",
    ]
    assert names == [*wanted, *(["DESCRIPTION"] if note.strip() else []), "END", "END", ""]
    [event] = icalendar.Calendar.from_ical(file.encode("utf-8", "replace")).walk("VEVENT")
    assert event.decoded("DTSTART") == moment


PACKED = b"PK\x03\x04" + b"\0" * 26


@pytest.mark.parametrize(
    ("name", "data", "kind"),
    [
        ("C:\\plans\\Walks.PDF", PDF, "pdf"),
        ("a.jpeg", b"\xff\xd8\xff\xe0", "jpg"),
        ("prices.csv", "Ort;Preis\nGöteborg;4".encode(), "csv"),
        ("walk.ics", b"\xef\xbb\xbfBEGIN:VCALENDAR\r\n", "ics"),
        ("plan.docx", PACKED + b"word/document.xml", "docx"),
        ("plan.odt", PACKED + b"mimetypeapplication/vnd.oasis.opendocument.text", "odt"),
    ],
)
def test_what_mail_programs_open_is_taken(name: str, data: bytes, kind: str) -> None:
    kept = checked_file(name, data)
    assert (kept.kind, kept.size, kept.content) == (kind, len(data), data)
    assert "\\" not in kept.name


@pytest.mark.parametrize(
    ("name", "data", "code"),
    [
        ("run.exe", b"MZ", "kind"),
        ("plan.pdf.js", b"alert(1)", "kind"),
        ("page.html", b"<p>", "kind"),
        (".pdf", PDF, "kind"),
        ("pdf", PDF, "kind"),
        ("plan.pdf", b"MZ\x90", "not_what_it_says"),
        ("plan.docx", PACKED + b"xl/workbook.xml", "not_what_it_says"),
        ("plan.ods", PACKED + b"mimetypeapplication/vnd.oasis.opendocument.text", "not_what_it_says"),
        ("plan.docx", PACKED + b"word/vbaProject.bin", "macros"),
        ("notes.txt", b"\0\1", "not_what_it_says"),
        ("plan\u202efdp.exe", b"MZ", "kind"),
        ("plan.pdf", b"", "empty"),
        ("plan.pdf", b"%PDF-" + bytes(5 << 20), "too_large"),
    ],
)
def test_what_they_refuse_or_what_is_not_what_it_says_is_refused(name: str, data: bytes, code: str) -> None:
    with pytest.raises(AttachmentFault) as fault:
        checked_file(name, data)
    assert fault.value.code == code
    assert "?" not in fault.value.message


@pytest.mark.parametrize(
    ("attachment", "part", "code"),
    [
        (AttachedFile(file=""), "attachments.0.file", "no_file"),
        (AttachedFile(file="ab", name="@{shoe}"), "attachments.0.name", "unknown_field"),
        (CalendarEntry(day="2027-03-01"), "attachments.0.title", "no_title"),
        (CalendarEntry(title="Walk"), "attachments.0.day", "no_day"),
        (CalendarEntry(title="Walk", day="2027-02-30"), "attachments.0.day", "no_day"),
        (CalendarEntry(title="Walk", day="town"), "attachments.0.day", "no_day"),
        (CalendarEntry(title="Walk", day="renews_on", time="24:00"), "attachments.0.time", "no_time"),
    ],
)
def test_what_is_wrong_with_an_attachment_is_said_where_it_is(attachment: Attachment, part: str, code: str) -> None:
    [found] = check_message(with_attached(attachment), FIELDS)
    assert (found.part, found.problem.code) == (part, code)
    assert check_message(with_attached(AttachedFile(file="ab"), WALK), FIELDS) == []


def test_a_name_stands_in_its_header_as_mail_programs_read_it() -> None:
    for name in ("a.pdf", 'with "quotes" and \\.pdf', "Plán.pdf", "中" * 60 + ".pdf", "long " * 30 + ".pdf"):
        told = parameter("Content-Disposition: attachment", "filename", name)
        assert all(len(line) <= 78 for line in told.split("\r\n"))
        read = parse(f"{told}\r\n\r\n".encode())
        assert read.get_filename() == name.strip()


def test_what_files_take_on_the_wire_is_known_before() -> None:
    for size in (1, 57, 58, 10_000):
        content = bytes(size)
        maker = LetterMaker(
            with_attached(AttachedFile(file="ab")), FIELDS, files={"ab": replace(FILES["ab"], content=content)}
        )
        part = maker.raw(ADA, context(), LINKS, FOOTER, ENVELOPE).split(b"--=_letter_and_attachments")[2]
        assert len(part.split(b"\r\n\r\n", 1)[1].removesuffix(b"\r\n")) == encoded_size(size)


def test_what_goes_with_the_words_in_one_language_goes_with_no_others() -> None:
    polish = OtherWords(language="pl", subject="Spacery", blocks=(Paragraph(text="Spacery"),))
    attached = (
        AttachedFile(file="ab", name="for all"),
        AttachedFile(file="ab", name="for the others", language="en"),
        AttachedFile(file="ab", name="dla Polaków", language="pl"),
        WALK.model_copy(update={"language": "pl"}),
    )
    content = with_attached(*attached).model_copy(update={"language": "en", "others": (polish,)})
    maker = LetterMaker(content, FIELDS, files=FILES)
    for reads, goes in (
        ("pl_PL", ["for all.pdf", "dla Polaków.pdf", "invitation.ics"]),
        ("de", ["for all.pdf", "for the others.pdf"]),
    ):
        record = {**ADA, "language": reads}
        made = parse(maker.raw(record, context(), LINKS, FOOTER, ENVELOPE))
        assert [one.get_filename() for one in made.iter_attachments()] == goes
        assert [one.name for one in maker.render(record, context(), LINKS, FOOTER).attached] == goes
    assert check_message(content, FIELDS) == []
    [found] = check_message(content.model_copy(update={"others": (), "attachments": attached[:3]}), FIELDS)
    assert (found.part, found.problem.code) == ("attachments.2.language", "no_readers")


def own(name: str, *names: str) -> OwnFiles:
    """Files for each person, the digest of each being its name in hexadecimal digits."""
    return OwnFiles(name=name, files=tuple(NamedFile(file=one.encode().hex()[:64], name=one) for one in names))


def found(record: Record, one: OwnFiles) -> list[tuple[str | None, str, bytes]]:
    files = {named.file: KeptFile(kind="pdf", name=named.name, size=len(PDF), content=PDF) for named in one.files}
    made = LetterMaker(with_attached(one), FIELDS, files=files).raw(record, context(), LINKS, FOOTER, ENVELOPE)
    return [
        (part.get_filename(), part.get_content_type(), part.get_payload(decode=True))  # type: ignore[misc]
        for part in parse(made).iter_attachments()
    ]


def test_each_reader_gets_the_file_with_their_name_and_whoever_has_none_a_letter_without() -> None:
    cards = own("card @{town}", "card skarn.pdf", "CARD SKARN.PDF", "card Marlby.pdf", "Marlby.pdf")
    assert found({**ADA, "town": "Skarn"}, cards) == [("card skarn.pdf", "application/pdf", PDF)]
    assert found({**ADA, "town": "MARLBY"}, cards) == [("card Marlby.pdf", "application/pdf", PDF)]
    for nobody in ({**ADA, "town": "Breccia"}, {**ADA, "town": None}, NOBODY):
        assert found(nobody, cards) == []
    read = LetterMaker(with_attached(cards), FIELDS, files={}).render(ADA, context(), LINKS, FOOTER)
    assert read.attached == ()


NAMES = ("skarn.pdf", ".pdf", "@{town}.pdf", "a.pdf")


@given(hostile)
def test_no_value_gets_another_file_than_the_one_of_that_very_name(town: str) -> None:
    cards = own("@{town}.pdf", *NAMES)
    wanted = f"{town}.pdf".strip(" ")
    shown = {"skarn.pdf": "skarn.pdf", ".pdf": "file.pdf", "@{town}.pdf": "@{town}.pdf", "a.pdf": "a.pdf"}
    got = [name for name, _, _ in found({**ADA, "town": town}, cards)]
    assert got == ([shown[wanted]] if wanted in shown else [])


@pytest.mark.parametrize(
    "name",
    ["", "certificate.pdf", "@{town} @{first_name}.pdf", '@{town else "none"}.pdf', "@{town as upper}.pdf", "@{pledge}.pdf",
     "@{nothing}.pdf", "@{if town is blank}@{town}@{end}", "@{town", "@{join(town, first_name)}"],
)  # fmt: skip
def test_the_name_of_a_persons_file_is_a_text_with_one_field_of_words(name: str) -> None:
    problems = [one.problem.code for one in check_message(with_attached(own(name, "a.pdf")), FIELDS)]
    assert "own_name" in problems
    assert not check_message(with_attached(own("to @{town}.pdf", "a.pdf")), FIELDS)
    assert [one.problem.code for one in check_message(with_attached(own("to @{town}.pdf")), FIELDS)] == ["no_files"]


CARD = MessageContent(
    subject="Card of @{first_name}",
    blocks=(
        Paragraph(text=(Passage(text="Renew", link="https://skarnmuseum.example/renew?card=@{contact_no}"),)),
        Paragraph(text="Your @{membership} card, until @{renews_on}. @{unsubscribe_link}"),
    ),
    others=(
        OtherWords(language="fr", subject="Carte", blocks=(Paragraph(text="Jusqu’au @{renews_on}, @{first_name}"),)),
    ),
)


def pdfs(record: Record, *shown: MessagePdf, words: MessageContent = CARD) -> dict[str, tuple[str, str]]:
    """The page and the style that became each PDF, by its name; the press writes down what it was given."""
    pressed: list[tuple[str, str]] = []

    def press(page: str, style: str) -> bytes:
        pressed.append((page, style))
        return b"%PDF-" + str(len(pressed) - 1).encode()

    means = PdfMeans(others={3: words}, locale="en_US", press=press)
    made = LetterMaker(with_attached(*shown), FIELDS, means=means).raw(record, context(), LINKS, FOOTER, ENVELOPE)
    found = {}
    for part in parse(made).iter_attachments():
        assert part.get_content_type() == "application/pdf"
        found[str(part.get_filename())] = pressed[int(bytes(part.get_payload(decode=True))[5:])]  # type: ignore[arg-type]
    return found


def test_a_message_goes_along_as_a_pdf_with_each_persons_own_values() -> None:
    ((name, (page, style)),) = pdfs(ADA, MessagePdf(message_id=3)).items()
    assert name == "Card of Ada.pdf"
    assert "Your Patron card, until Oct 5, 2026." in page
    # Links lead where they lead, uncounted; the way to leave is the letter's own.
    assert f'href="https://skarnmuseum.example/renew?card={ADA["contact_no"]}"' in page
    assert LINKS.unsubscribe in page
    assert "8.5in 11in" in style
    itself = pdfs(ADA, MessagePdf(name="letter @{contact_no}.PDF"))
    assert list(itself) == [f"letter {ADA['contact_no']}.pdf"]
    assert pdfs(ADA, MessagePdf(message_id=4)) == {}


def test_a_pdf_is_in_the_language_that_a_person_reads_whatever_the_words_around_it_are_in() -> None:
    ((name, (page, _)),) = pdfs({**ADA, "language": "fr"}, MessagePdf(message_id=3)).items()
    assert name == "Carte.pdf"
    assert '<html lang="fr"' in page
    assert "Jusqu’au 5 oct. 2026, Ada" in page


@given(hostile)
def test_no_value_makes_a_tag_on_a_page_or_a_header_around_it(value: str) -> None:
    one = MessagePdf(message_id=3, name="@{first_name}")
    ((name, (page, _)),) = pdfs({**NOBODY, "first_name": value}, one).items()
    assert name.endswith(".pdf")
    ((_, (bare, _)),) = pdfs({**NOBODY, "first_name": "x"}, one).items()
    assert page.count("<") == bare.count("<")


def test_a_letter_is_another_one_where_what_is_attached_is_another() -> None:
    def told(attached: Attachment, kept: bytes = PDF, words: MessageContent = CARD, record: Record = ADA) -> str:
        files = {one: KeptFile(kind="pdf", name="plan.pdf", size=len(kept), content=kept) for one in ("ab", "cd")}
        maker = LetterMaker(with_attached(attached), FIELDS, files=files, means=PdfMeans(others={3: words}))
        return digest_of(maker.render(record, context(), LINKS, FOOTER))

    # Of one name and one size.
    assert told(AttachedFile(file="ab", name="plan")) != told(AttachedFile(file="cd", name="plan"))
    assert told(WALK) != told(WALK.model_copy(update={"place": "Quarry gate, Skurn"}))
    shown = MessagePdf(message_id=3, name="card")
    assert told(shown) == told(shown)
    assert told(shown) != told(shown, words=CARD.model_copy(update={"subject": "Karte"}))
    assert told(shown) != told(shown, record={**ADA, "membership": "Fellow"})
