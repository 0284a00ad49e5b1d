"""HTML of an author: whatever is written, a letter holds only tags that are known, balanced, and no value makes one."""

import re
from html.parser import HTMLParser

import html5lib
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.test_blocks import HERE, letter, shown
from tests.core.test_inlay import hostile
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.messages import Html, MessageContent, Paragraph, check_message
from uvarovite.core.messages.html_pieces import html_pieces

PIECES = (
    "<p>", "</p>", "<b>", "</b>", "<div style='color:red'>", "</div>", "<table>", "<tr>", "<td>", "</td>", "</table>", "<ul>",
    "<li>", "<a href='https://museum.example/@{town}'>", "</a>", "<img src=https://museum.example/a.png alt='@{town}'>",
    "<br>", "<hr/>", "<pre>", "<center>", "Text", " ", "&lt;script&gt;", "&amp;", "@{town}", '@{first_name else "<b>"}',
    "@{if volunteer}yes@{else}no@{end}", "@@{", "<!-- @{twn} -->", "<td align=right dir=rtl lang=ar>", "é 中", "\n",
)  # fmt: skip
soup = st.lists(st.sampled_from(PIECES), min_size=1, max_size=14).map("".join)


class Tags(HTMLParser):
    """The tags of HTML with the names of their attributes, in order."""

    def __init__(self) -> None:
        super().__init__()
        self.found: list[tuple[str, ...]] = []

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.found.append((tag, *(name for name, _ in attrs)))


# What a value makes of itself: its line ends, and a name that runs from right to left kept to itself.
OF_VALUES = {("br",), ("span", "dir")}


def tags(html: str) -> list[tuple[str, ...]]:
    parser = Tags()
    parser.feed(html)
    return [one for one in parser.found if one not in OF_VALUES]


def message(source: str) -> MessageContent:
    return MessageContent(subject="Two walks", blocks=(Html(source=source), Paragraph(text="The end")))


@given(soup, hostile)
def test_a_letter_holds_the_same_tags_for_whoever_reads_it(source: str, town: str) -> None:
    assume(not check_message(message(source), FIELDS))
    letters = [letter(Html(source=source), record={**ADA, "town": told}).html for told in (town, "Skarn")]
    assert tags(letters[0]) == tags(letters[1])
    html5lib.HTMLParser(strict=True).parse(letters[1])


@given(st.one_of(st.text(max_size=80), st.text(alphabet="<>/='\" @{}!-abps&;\ue000\ue0011", max_size=80), soup))
def test_any_text_has_pieces_and_is_checked(source: str) -> None:
    assert html_pieces(source) is not None
    problems = check_message(message(source), FIELDS)
    assert all(one.part.startswith("blocks") for one in problems)


@pytest.mark.parametrize(
    ("source", "words"),
    [
        ("<script>alert(1)</script>", "“<script>” cannot stand in a letter"),
        ("<p>a<iframe src='https://a.example'></iframe>", "“<iframe>”"),
        ("<form><input></form>", "“<form>”"),
        ("<style>p{color:red}</style>", "“<style>”"),
        ("<svg onload=x>", "“<svg>”"),
        ("<p onclick='x'>a</p>", "“onclick”"),
        ("<p style='background:url(https://a.example)'>a</p>", "The style"),
        ("<p style='pos\\69tion:fixed'>a</p>", "The style"),
        ("<p dir='@{town}'>a</p>", "An inlay in “dir”"),
        ("<a href='javascript:x'>a</a>", "A link begins with https://"),
        ("<a href='https://@{town}.example'>a</a>", "Where a link leads cannot come from"),
        ("<img src='data:image/png;base64,AA' alt=''>", "A link begins with https://"),
        ("<img src='https://a.example/a.png'>", 'Say in alt="…"'),
        ("<p>@{if volunteer}a</p><p>b@{end}</p>", "has no @{end}"),
        ("<p>@{twn}</p>", "Did you mean “town”?"),
        (" ", "Write some HTML"),
        ("<div>" * 200 + "a", "deep"),
    ],
)
def test_what_cannot_stand_in_a_letter_is_named(source: str, words: str) -> None:
    told = [one.problem.message for one in check_message(message(source), FIELDS)]
    assert any(words in one for one in told), told


def test_what_is_dropped_is_harmless_and_what_lays_out_stays() -> None:
    source = '<table class="x" width="100%" id="t"><tr><td style="color:red" data-a="1">A</td><td>B</td></tr></table>'
    html = letter(Html(source=source)).html
    assert '<table width="100%"><tbody><tr><td style="color:red">A</td><td>B</td></tr></tbody></table>' in html
    assert shown(letter(Html(source=source)))[1] == "A · B"
    # Without a colour of its own it has the letter's, which turns in the dark.
    assert '<div class="ink" style="font-family:' in html


def test_links_are_numbered_once_for_html_and_text_and_pictures_say_what_is_on_them() -> None:
    source = (
        f'<a href="{HERE}/a?c=@{{contact_no}}">one</a> <a href="{HERE}/b">two</a>'
        f'<img src="{HERE}/@{{town}}.png" alt="A @{{town else "place"}}"><img src="{HERE}/line.png" alt="">'
    )
    made = letter(Html(source=source))
    assert re.findall(r'href="(https://museum\.example/[ab][^"]*)"', made.html) == [
        f"{HERE}/a?c=M-01#0",
        f"{HERE}/b#1",
    ]
    assert shown(made)[1] == f"one ({HERE}/a?c=M-01#0) two ({HERE}/b#1)[A Skarn]"
    assert f'src="{HERE}/Skarn.png" alt="A Skarn"' in made.html
    assert 'alt="A place"' in letter(Html(source=source), record=NOBODY).html
