"""The Inlay: what it inserts, what it refuses and where, and that rendering is total, pure and safe."""

import html
from datetime import UTC, datetime
from urllib.parse import unquote

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import CLOCK, FIELDS, records
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record, Value
from uvarovite.core.inlay import (
    InlayContext,
    Template,
    check_inlay,
    compile_inlay,
    header,
    html_attribute,
    html_text,
    locale_for,
    parse_inlay,
    plain,
    url_part,
)
from uvarovite.core.language import LanguageError, place_of

PROVIDED = {"organisation.name": "Skarn Valley Mineral Museum", "topic.name": "Field walks", "sender.name": ""}


def context(language: str = "en", default: str = "en_GB") -> InlayContext:
    return InlayContext(locale=locale_for(language, None, default), clock=CLOCK, provided=PROVIDED)


def compiled(source: str) -> Template:
    nodes = parse_inlay(source)
    assert check_inlay(nodes, FIELDS) == []
    return compile_inlay(nodes, FIELDS)


# (source, for Ada in English, for somebody without any data)
RENDERED = [
    ("no inlay at all", "no inlay at all", "no inlay at all"),
    ("Dear @{first_name},", "Dear Ada,", "Dear ,"),
    ('Dear @{first_name else "friend"},', "Dear Ada,", "Dear friend,"),
    ('@{first_name as upper else "you"}', "ADA", "you"),
    ("@{pledge}", "€1,250.50", ""),
    ("@{pledge as money}", "€1,250.50", ""),
    ("@{renews_on}", "5 Oct 2026", ""),
    ('@{renews_on as date "EEEE d MMMM"}', "Monday 5 October", ""),
    ("@{visits_last_year}", "1,234.5", ""),
    ("@{today}", "31 Mar 2026", "31 Mar 2026"),
    ("@{organisation.name}", "Skarn Valley Mineral Museum", "Skarn Valley Mineral Museum"),
    ('@{sender.name else "us"}', "us", "us"),
    ('@{if membership is "Patron"}P@{elif membership is "Fellow"}F@{else}-@{end}', "P", "-"),
    ("@{if volunteer}yes@{end}!", "yes!", "!"),
    ('@{if pledge > 9 EUR}@{if town is "skarn"}both@{end}@{end}', "both", ""),
    ("@{# for colleagues: } is fine in here }x", " is fine in here }x", " is fine in here }x"),
    ("a literal @@{first_name}", "a literal @{first_name}", "a literal @{first_name}"),
    ('@{town else "a } in quotes"}', "Skarn", "a } in quotes"),
    ("ada@slatepost.example", "ada@slatepost.example", "ada@slatepost.example"),
]


@pytest.mark.parametrize(("source", "for_ada", "for_nobody"), RENDERED)
def test_a_text_renders_for_a_person(source: str, for_ada: str, for_nobody: str) -> None:
    template = compiled(source)
    assert template.render(ADA, context(), plain) == for_ada
    assert template.render(NOBODY, context(), plain) == for_nobody


@pytest.mark.parametrize(
    ("language", "shown"),
    [
        ("en", "€1,250.50 on 5 Oct 2026"),
        ("en-US", "€1,250.50 on Oct 5, 2026"),
        ("de", "1.250,50\u00a0€ on 05.10.2026"),
        ("pl", "1\u00a0250,50\u00a0€ on 5 paź 2026"),
        ("el", "1.250,50\u00a0€ on 5 Οκτ 2026"),
        ("ja", "€1,250.50 on 2026/10/05"),
        ("xx-nowhere", "€1,250.50 on 5 Oct 2026"),
        ("", "€1,250.50 on 5 Oct 2026"),
    ],
)
def test_money_and_dates_are_shown_in_the_messages_language(language: str, shown: str) -> None:
    assert compiled("@{pledge} on @{renews_on}").render(ADA, context(language), plain) == shown


@pytest.mark.parametrize(
    ("source", "shown"),
    [
        # Kept in UTC; where the museum stands the clocks went forward two days ago, and it is the next day there.
        ("@{last_seen}", "31/03/2026, 00:30"),
        ("@{last_seen as date_time}", "31/03/2026, 00:30"),
        ("@{last_seen as time}", "00:30"),
        ("@{last_seen as date}", "31 Mar 2026"),
        ('@{last_seen as date "d MMMM"}', "31 March"),
    ],
)
def test_an_instant_is_shown_where_the_organisation_is(source: str, shown: str) -> None:
    seen = {**ADA, "last_seen": datetime(2026, 3, 30, 23, 30, tzinfo=UTC)}
    assert compiled(source).render(seen, context(), plain) == shown


@pytest.mark.parametrize(
    ("language", "reader", "organisation", "locale"),
    [
        ("en", "pl", "en_GB", "en_GB"),
        ("en", "en-US", "en_GB", "en_US"),
        ("en", "nl-BE", "de_AT", "en"),
        ("", "fr-CA", "de_AT", "de_AT"),
        ("fr", "fr-CA", "de_AT", "fr_CA"),
        ("pl", None, "en_GB", "pl"),
        ("xx-nowhere", "de", "en_GB", "en_GB"),
    ],
)
def test_the_readers_region_counts_within_the_messages_language_only(
    language: str, reader: str | None, organisation: str, locale: str
) -> None:
    assert str(locale_for(language, reader, organisation)) == locale


# (source, code, line, column, suggestion)
FAULTY = [
    ("Dear @{firstname},", "unknown_field", 1, 8, "first_name"),
    ("one\ntwo @{Town}", "unknown_field", 2, 7, "town"),
    ("@{organisation.nam}", "unknown_field", 1, 3, "organisation.name"),
    ("Dear @{first_name", "open_inlay", 1, 6, None),
    ("@{}", "no_field", 1, 1, None),
    ("@{first_name as}", "no_format", 1, 14, None),
    ("@{first_name as shout}", "unknown_format", 1, 17, None),
    ("@{first_name as money}", "format_type", 1, 17, None),
    ('@{renews_on as date "hh:mm"}', "pattern", 1, 16, None),
    ('@{pledge as money "0.00"}', "pattern", 1, 13, None),
    ("@{first_name else friend}", "no_fallback", 1, 14, None),
    ("@{volunteer}", "yes_no_text", 1, 1, None),
    ("@{if volunteer}yes", "open_block", 1, 1, None),
    ("yes@{end}", "stray_end", 1, 4, None),
    ("@{else}", "stray_branch", 1, 1, None),
    ("@{if volunteer}a@{else}b@{else}c@{end}", "after_else", 1, 25, None),
    ('@{if membership is "Patrn"}a@{end}', "no_such_choice", 1, 20, '"Patron"'),
    ("@{if }a@{end}", "no_field", 1, 6, None),
    ("@{first_name last_name}", "unexpected", 1, 14, None),
]


@pytest.mark.parametrize(("source", "code", "line", "column", "suggestion"), FAULTY)
def test_a_fault_has_its_place(source: str, code: str, line: int, column: int, suggestion: str | None) -> None:
    try:
        problem = check_inlay(parse_inlay(source), FIELDS)[0]
    except LanguageError as fault:
        problem = fault.problem
    place = place_of(source, problem.span)
    assert (problem.code, place.line, place.column) == (code, line, column)
    assert problem.suggestion == suggestion


_PIECES = [
    "@{first_name}", '@{town else "x"}', "@{pledge}", "@{renews_on}", "@{visits_last_year as percent}",
    "@{if volunteer}", '@{elif town is "a"}', "@{else}", "@{end}", "@{# n }", "@@{", "@{", "}", "text \n", '"', "ß",
]  # fmt: skip
sources = st.lists(st.sampled_from(_PIECES), max_size=10).map("".join) | st.text(max_size=60)


@given(sources, records, st.sampled_from(["en", "de", "ar", "ja", "", "zz"]))
@example("@{if volunteer}" * 500, {}, "en")
@example("@{" * 5_000, {}, "en")
def test_a_checked_text_always_renders_and_remembers_nobody(
    source: str, record: dict[str, Value], language: str
) -> None:
    try:
        nodes = parse_inlay(source)
    except LanguageError:
        return
    if check_inlay(nodes, FIELDS):
        return
    template = compile_inlay(nodes, FIELDS)
    first = template.render(record, context(language), plain)
    template.render(ADA, context("de"), html_text)
    assert template.render(record, context(language), plain) == first
    assert compile_inlay(nodes, FIELDS).render(record, context(language), plain) == first


hostile = st.text(alphabet="<>&\"'/ab\r\n\0\u2028:;%?#é \t", min_size=1, max_size=20)


@given(hostile)
def test_where_an_inlay_stands_decides_its_escaping(value: str) -> None:
    record: Record = {**NOBODY, "town": value}
    template = compiled("@{town}")
    as_html = template.render(record, context(), html_text)
    assert "<" not in as_html.replace("<br>", "")
    assert html.unescape(as_html.replace("<br>", "\n")) == value
    as_attribute = template.render(record, context(), html_attribute)
    assert '"' not in as_attribute
    assert html.unescape(as_attribute) == value
    as_header = template.render(record, context(), header)
    assert not set(as_header) & set("\r\n\0\u2028")
    as_url = compiled("https://a.example/?t=@{town}").render(record, context(), url_part, plain)
    assert unquote(as_url.removeprefix("https://a.example/?t=")) == value
    assert not set(as_url.removeprefix("https://a.example/?t=")) & set("/:;?#&=<>\"' \r\n\0")
