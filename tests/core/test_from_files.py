"""What was written elsewhere, from a file: what one reads stays, what acts or fetches does not, and nothing breaks it."""

import io
import zipfile

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import FIELDS
from uvarovite.core.messages import Button, Heading, Html, Listing, MessageContent, Paragraph, Picture
from uvarovite.core.messages.from_files import LARGEST_BYTES, WordsOfFile, WritingFault, with_places, words_of_file
from uvarovite.core.messages.from_files.html import blocks_of_html
from uvarovite.core.messages.from_files.links import linked
from uvarovite.core.messages.html_pieces import html_pieces
from uvarovite.core.messages.links import link_problem
from uvarovite.core.messages.passages import source_of


def said(found: WordsOfFile) -> list[tuple[str, str]]:
    """(kind, text) of each block."""
    told = []
    for block in found.blocks:
        match block:
            case Heading(text=text) | Paragraph(text=text):
                told.append((block.kind, source_of(text)))
            case Listing(items=items):
                told.append((block.kind, " | ".join(source_of(item) for item in items)))
            case Button(label=label, url=url):
                told.append((block.kind, f"{label}: {url}"))
            case Picture(alt=alt, address=address):
                told.append((block.kind, f"{alt}: {address}"))
            case Html(source=source):
                told.append((block.kind, source))
            case _:
                told.append((block.kind, ""))
    return told


LETTER = """<!doctype html><html><head><title>Two  walks</title><style>p{color:red}</style>
<link rel=stylesheet href=https://fonts.example/x></head><body onload="x()">
<table role="presentation"><tr><td><h1>Two walks</h1><p>Dear {{ First name }},<br>
come   <b>along</b> to <a href="https://skarnmuseum.example/walks">the <i>Scree</i> Path</a>. <a href="javascript:x()">No</a></p></td></tr></table>
<script>alert(1)</script><ul><li>Boots</li><li><p>A lamp</p></li></ul><hr>
<img src="https://skarnmuseum.example/lamp.png" alt="A lamp" width="200"><img src="https://x.example/p.gif" width=1 height=1><img src="data:image/png;base64,xx">
<a class="btn" href="https://skarnmuseum.example/book">Book a place</a>
<table><tr><th>Walk</th><th>Day</th></tr><tr><td>Scree</td><td>5 May</td></tr></table>
<form action=/x><input name=q> Tell us</form><iframe src=https://x.example></iframe></body></html>"""


def test_a_letter_in_html_becomes_blocks_and_what_acts_is_left_out_and_told() -> None:
    found = blocks_of_html(LETTER)
    assert found.subject == "Two walks"
    assert said(found) == [
        ("heading", "Two walks"),
        ("paragraph", "Dear {{ First name }},\ncome along to the Scree Path. No"),
        ("list", "Boots | A lamp"),
        ("divider", ""),
        ("picture", "A lamp: https://skarnmuseum.example/lamp.png"),
        ("button", "Book a place: https://skarnmuseum.example/book"),
        (
            "html",
            '<table width="100%" cellpadding="4" cellspacing="0">\n'
            '<tr><th align="left">Walk</th><th align="left">Day</th></tr>\n'
            '<tr><td align="left">Scree</td><td align="left">5 May</td></tr>\n</table>',
        ),
        ("paragraph", "Tell us"),
    ]
    paragraph = found.blocks[1]
    assert isinstance(paragraph, Paragraph)
    marked = [(one.text, one.bold, one.italic, one.link) for one in paragraph.text if one.bold or one.link]
    link = "https://skarnmuseum.example/walks"
    assert marked == [
        ("along", True, False, ""),
        ("the ", False, False, link),
        ("Scree", False, True, link),
        (" Path", False, False, link),
    ]
    assert found.left_out == {
        "styles": 2, "scripts": 1, "links": 1, "embedded": 1, "forms": 2, "frames": 1,
    }  # fmt: skip


TAGS = ["p", "div", "b", "a href='https://a.example'", "a href='javascript:x'", "h1", "ul", "li", "table", "td", "img src=x",
        "script", "style", "br", "img src='https://a.example/x' width=9999999", "/p", "/div", "/table", "!--", "svg", "form"]  # fmt: skip


@given(st.lists(st.one_of(st.sampled_from(TAGS).map(lambda tag: f"<{tag}>"), st.text(max_size=8)), max_size=40))
@example(["<div>"] * 3_000 + ["x"])
@example(["<p>x</p>"] * 500)
@example(["<table>", *["<tr><td>a<td>b"] * 3_000, "<tr><td>a<td>", "b" * 50_000])
def test_any_html_becomes_a_message_that_can_be_stored_and_fetches_nothing_else(parts: list[str]) -> None:
    found = blocks_of_html("".join(parts))
    content = MessageContent(subject=found.subject, blocks=found.blocks)
    assert MessageContent.model_validate(content.model_dump(mode="json")) == content
    for block in found.blocks:
        assert not isinstance(block, Html) or html_pieces(block.source).refused == {}
        for one in getattr(block, "text", ()):
            assert one.link.startswith(("https://", "http://", "mailto:")) or not one.link


def test_places_that_are_called_as_a_field_become_its_inlay_and_the_others_are_told() -> None:
    blocks, subject, left = with_places(
        (Paragraph(text="Dear {{ First name }}, [[Town]] %PLEDGE% {unknown thing} @{town}"), Button(label="Go", url="https://a.example/{{town}}"),
         Html(source="<td>{{town}} %nothing%")),
        "{{first_name}}!",
        FIELDS,
    )  # fmt: skip
    assert said(WordsOfFile(blocks=blocks)) == [
        ("paragraph", "Dear @{first_name}, @{town} @{pledge} {unknown thing} @{town}"),
        ("button", "Go: https://a.example/@{town}"),
        ("html", "<td>@{town} %nothing%"),
    ]
    assert (subject, left) == ("@{first_name}!", ["{unknown thing}", "%nothing%"])


def word_file(**more: bytes) -> bytes:
    """A small .docx with a heading, words in bold and a list."""
    namespace = 'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"'
    document = f"""<w:document {namespace}><w:body>
        <w:p><w:pPr><w:pStyle w:val="Heading1"/></w:pPr><w:r><w:t>Two walks</w:t></w:r></w:p>
        <w:p><w:r><w:t xml:space="preserve">Come </w:t></w:r><w:r><w:rPr><w:b/></w:rPr><w:t>along</w:t></w:r></w:p>
        </w:body></w:document>"""
    types = """<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
        <Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
        <Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>"""
    relations = """<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1"
        Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>"""
    styles = f"""<w:styles {namespace}><w:style w:type="paragraph" w:styleId="Heading1"><w:name w:val="heading 1"/></w:style></w:styles>"""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("[Content_Types].xml", types)
        packed.writestr("_rels/.rels", relations)
        packed.writestr("word/document.xml", document)
        packed.writestr("word/styles.xml", styles)
        for name, content in more.items():
            packed.writestr(name, content)
    return out.getvalue()


MAIL = b"""From: a@slatepost.example\r\nSubject: =?utf-8?q?Zwei_W=C3=A4nde?=\r\nMIME-Version: 1.0\r
Content-Type: multipart/alternative; boundary=x\r\n\r\n--x\r\nContent-Type: text/plain\r\n\r\nText\r
--x\r\nContent-Type: text/html; charset=utf-8\r\n\r\n<h1>Words</h1>\r\n--x--\r\n"""


@pytest.mark.parametrize(
    ("filename", "data", "subject", "blocks"),
    [
        ("a.docx", word_file(), "", [("paragraph", "Two walks"), ("paragraph", "Come along")]),
        ("named wrongly.html", word_file(), "", [("paragraph", "Two walks"), ("paragraph", "Come along")]),
        ("a.md", b"# Two walks\n\nCome **along**\n\n- Boots\n- <b>lamp</b>\n", "",
         [("heading", "Two walks"), ("paragraph", "Come along"), ("list", "Boots | <b>lamp</b>")]),
        ("a.txt", b"Dear all,\r\n\r\ntwo\r\nlines", "", [("paragraph", "Dear all,"), ("paragraph", "two\nlines")]),
        ("a.txt", "Grüße an alle, die über Brücken und Wege gehen".encode("cp1252"), "",
         [("paragraph", "Grüße an alle, die über Brücken und Wege gehen")]),
        ("a.eml", MAIL, "Zwei Wände", [("heading", "Words")]),
    ],
)  # fmt: skip
def test_a_file_is_read_as_what_it_holds(
    filename: str, data: bytes, subject: str, blocks: list[tuple[str, str]]
) -> None:
    found = words_of_file(data, filename)
    told = said(found)
    if "docx" in filename or "wrongly" in filename:
        told = [("paragraph" if kind == "heading" else kind, text) for kind, text in told]
    assert (found.subject, told) == (subject, blocks)


def test_macros_are_left_out_and_told() -> None:
    assert words_of_file(word_file(**{"word/vbaProject.bin": b"x"}), "a.docm").left_out == {"macros": 1}


BOMB = word_file(**{"word/media/x.bin": b"\0" * (40 << 20)})
OTHER_ZIP = io.BytesIO()
with zipfile.ZipFile(OTHER_ZIP, "w") as _packed:
    _packed.writestr("a.txt", "x")


@pytest.mark.parametrize(
    ("filename", "data", "code"),
    [
        ("a.docx", BOMB, "inflated"),
        ("a.docx", b"PK\x03\x04 and no more", "unreadable"),
        ("a.docx", OTHER_ZIP.getvalue(), "no_writing"),
        ("a.doc", b"\xd0\xcf\x11\xe0" + b"x" * 600, "old_word"),
        ("a.html", b"\x89PNG\x00\x00", "no_writing"),
        ("a.html", b"x" * (4 << 20), "too_large"),
        ("a.docx", b"x" * (LARGEST_BYTES + 1), "too_large"),
        ("a.html", b"<html><script>x</script>", "nothing"),
        ("a.txt", b" \n\n ", "nothing"),
    ],
)
def test_what_cannot_be_read_says_why(filename: str, data: bytes, code: str) -> None:
    with pytest.raises(WritingFault) as fault:
        words_of_file(data, filename)
    assert fault.value.code == code
    assert "?" not in fault.value.message


@given(st.binary(max_size=300), st.sampled_from(["a.docx", "a.eml", "a.md", "a.html", "a.txt", ""]), st.booleans())
def test_any_file_is_read_or_refused(data: bytes, filename: str, packed: bool) -> None:
    try:
        found = words_of_file((b"PK\x03\x04" if packed else b"") + data, filename)
    except WritingFault:
        return
    assert found.blocks


@given(
    st.lists(
        st.sampled_from(
            ["https://a.example/b", "http://c.example", "https://", " ", ".", ")", "(", "“", "x", "@{town}"]
        )
    )
)
def test_addresses_in_plain_text_are_links_and_the_text_stays(parts: list[str]) -> None:
    text = "".join(parts)
    passages = linked(text)
    assert "".join(one.text for one in passages) == text
    assert all(one.link in ("", one.text) and link_problem(one.link or "https://x") is None for one in passages)


def test_an_address_ends_where_the_sentence_goes_on() -> None:
    told = linked("See https://a.example/walks, or (http://a.example/b_(c)). Not https:// and @{town}")
    assert [one.link for one in told if one.link] == ["https://a.example/walks", "http://a.example/b_(c)"]
