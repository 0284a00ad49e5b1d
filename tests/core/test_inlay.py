"""The Inlay: what it inserts, what it refuses and where, and that rendering is total, pure and safe."""

import html
from datetime import UTC, date, datetime
from decimal import Decimal
from urllib.parse import unquote

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.support.fields import CLOCK, FIELDS, records
from tests.support.inlay_plainly import tell
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
from uvarovite.core.values import Money

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
    # Calculations.
    ("@{visits_last_year * 2 + 1}", "2,470", ""),
    ("@{visits_last_year -1}", "1,233.5", ""),
    ("@{2 * (visits_last_year - 234.5)}", "2,000", ""),
    ("@{pledge / 2 + 0.75 EUR}", "€626.00", ""),
    ("@{pledge / 100 EUR as percent}", "1,250%", ""),
    ('@{visits_last_year / 0 else "none"}', "none", "none"),
    ("@{renews_on + 2 weeks}", "19 Oct 2026", ""),
    ('@{renews_on - 1 month as date "d MMMM"}', "5 September", ""),
    ("@{renews_on - today} days", "188 days", " days"),
    ('@{renews_on + 600 months + 600 months else "-"}', "5 Oct 2126", "-"),
    ("@{today + 1 day}, @{now as time}", "1 Apr 2026, 12:00", "1 Apr 2026, 12:00"),
    # Functions and lists.
    ("@{count(adopted_specimens)}", "2", "0"),
    ("@{sum(adopted_specimens.price)}", "€30.50", ""),
    ('@{join(", ", town, contact_no, last_name) else "nobody"}', "Skarn, M-01, Thwaite-Gray", "nobody"),
    ('@{join(" · ", last_seen, town, renews_on)}', "Skarn · 5 Oct 2026", ""),
    ("@{postal_address()}", "Skarn\nSK1 2AB", ""),
    (
        "@{each s in adopted_specimens}@{s.name}: @{s.price}; @{else}none@{end}",
        "Galena: €12.00; Fluorite: €18.50; ",
        "none",
    ),
    ("@{each s in adopted_specimens by name}@{s.name as upper} @{end}", "FLUORITE GALENA ", ""),
    (
        "@{each s in adopted_specimens}@{if s.price > 15 EUR and volunteer}@{first_name}: @{s.name}@{end}@{end}",
        "Ada: Fluorite",
        "",
    ),
    ('@{each s in adopted_specimens by since}@{s.since else "?"} @{end}', "1 May 2021 ? ", ""),
]


WITH_LISTS: Record = {
    **ADA,
    "postcode": "SK1 2AB",
    "adopted_specimens": (
        {"name": "Galena", "price": Money(amount=Decimal("12"), currency="EUR")},
        {"name": "Fluorite", "price": Money(amount=Decimal("18.5"), currency="EUR"), "since": date(2021, 5, 1)},
    ),
}


@pytest.mark.parametrize(("source", "for_ada", "for_nobody"), RENDERED)
def test_a_text_renders_for_a_person(source: str, for_ada: str, for_nobody: str) -> None:
    template = compiled(source)
    assert template.render(WITH_LISTS, context(), plain) == for_ada
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
    ("@{pledge + 3}", "cannot_reckon", 1, 3, None),
    ("@{pledge + 3 USD}", "other_currency", 1, 3, None),
    ("@{14 days}", "cannot_reckon", 1, 1, None),
    ("@{town + 14 days}", "cannot_reckon", 1, 3, None),
    ("@{renews_on + 14 days * 2}", "cannot_reckon", 1, 15, None),
    ("@{renews_on as date + 1 day}", "unexpected", 1, 21, None),
    ("@{2 * (pledge}", "open_bracket", 1, 14, None),
    ("@{2 *}", "no_field", 1, 6, None),
    ("@{cuont(adopted_specimens)}", "unknown_function", 1, 3, "count"),
    ("@{count(town)}", "no_list", 1, 9, None),
    ("@{count()}", "function_use", 1, 3, None),
    ("@{sum(adopted_specimens)}", "function_use", 1, 3, None),
    ("@{sum(adopted_specimens.prise)}", "unknown_part", 1, 7, "adopted_specimens.price"),
    ("@{sum(adopted_specimens.name)}", "cannot_reckon", 1, 7, None),
    ("@{join(town, country)}", "function_use", 1, 3, None),
    ('@{join(", ", volunteer)}', "cannot_join", 1, 14, None),
    ("@{postal_address(town)}", "function_use", 1, 3, None),
    ("@{each s in town}a@{end}", "no_list", 1, 13, None),
    ("@{each s in specimens}a@{end}", "unknown_field", 1, 13, "adopted_specimens"),
    ("@{each town in adopted_specimens}a@{end}", "each_name", 1, 8, None),
    ("@{each in in adopted_specimens}a@{end}", "each_name", 1, 8, None),
    ("@{each s of adopted_specimens}a@{end}", "each", 1, 1, None),
    ("@{each s in adopted_specimens by nam}a@{end}", "unknown_part", 1, 34, "name"),
    ("@{each s in adopted_specimens}@{s.nam}@{end}", "unknown_field", 1, 33, "s.name"),
    ("@{each s in adopted_specimens}a", "open_block", 1, 1, None),
    ("@{each s in adopted_specimens}@{each t in adopted_specimens}@{end}@{end}", "nested_each", 1, 31, None),
    ("@{each s in adopted_specimens}a@{elif volunteer}b@{end}", "stray_branch", 1, 32, None),
    ("@{each s in adopted_specimens}a@{end}@{s.name}", "unknown_field", 1, 40, "sender.name"),
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


_VALUES = {
    "number": st.sampled_from(["visits_last_year", "count(adopted_specimens)", "sum(adopted_specimens.weight)", "2", "0.5"]),
    "money": st.sampled_from(["pledge", "sum(adopted_specimens.price)", "3 EUR"]),
    "day": st.sampled_from(["renews_on", "today"]),
    "moment": st.sampled_from(["last_seen", "now"]),
    "text": st.sampled_from(["town", "membership", "sender.name", 'join(", ", town, last_name, pledge)']),
}  # fmt: skip
_durations = st.sampled_from(["3 days", "1 week", "13 months", "18000 days"])


def _reckoning(kind: str, depth: int = 2) -> st.SearchStrategy[str]:
    plain_value = _VALUES[kind]
    if depth == 0 or kind == "text":
        return plain_value
    below = {one: _reckoning(one, depth - 1) for one in ("number", "money", "day", "moment")}
    written = {
        "number": [
            st.builds("({} {} {})".format, below["number"], st.sampled_from("+-*/"), below["number"]),
            st.builds("({} / {})".format, below["money"], below["money"]),
            st.builds("({} - {})".format, below["day"], below["day"]),
        ],
        "money": [
            st.builds("({} {} {})".format, below["money"], st.sampled_from("+-"), below["money"]),
            st.builds("({} {} {})".format, below["money"], st.sampled_from("*/"), _VALUES["number"]),
            st.builds("({} * {})".format, _VALUES["number"], below["money"]),
        ],
        "day": [st.builds("({} {} {})".format, below["day"], st.sampled_from("+-"), _durations)],
        "moment": [st.builds("({} {} {})".format, below["moment"], st.sampled_from("+-"), _durations)],
    }[kind]
    return plain_value | st.one_of(written)


_inserted = st.sampled_from(sorted(_VALUES)).flatmap(_reckoning)
_inserts = st.builds("@{{{}{}}}".format, _inserted, st.sampled_from(["", ' else "friend"']))
_item_inserts = st.sampled_from(
    ["@{s.name}", "@{s.weight * 2}", "@{s.price}", '@{s.since else "?"}', "@{s.seen as date}"]
)
_conditions = st.sampled_from(
    ["volunteer", "pledge > 3 EUR", "count(adopted_specimens) >= 2", 'membership is "Patron"']
)
_item_conditions = st.sampled_from(["s.kept", "s.price > 0 EUR and volunteer", "s.since is not blank", "s.weight < 0"])


def _texts(inserted: st.SearchStrategy[str], conditions: st.SearchStrategy[str]) -> st.SearchStrategy[str]:
    leaves = inserted | st.sampled_from(["word ", "\n", "@@{", "@{# n }"])
    return st.recursive(
        leaves,
        lambda parts: (
            st.lists(parts, max_size=3).map("".join)
            | st.builds(
                "@{{if {}}}{}@{{elif {}}}{}@{{else}}{}@{{end}}".format, conditions, parts, conditions, parts, parts
            )
        ),
        max_leaves=6,
    )


_loops = st.builds(
    "@{{each s in adopted_specimens{}}}{}@{{else}}{}@{{end}}".format,
    st.sampled_from(["", " by name", " by price", " by since", " by kept", " by weight"]),
    _texts(_item_inserts | _inserts, _item_conditions | _conditions),
    _texts(_inserts, _conditions),
)


@given(st.lists(_texts(_inserts, _conditions) | _loops, max_size=4).map("".join), records)
def test_what_is_compiled_says_what_the_tree_says(source: str, record: dict[str, Value]) -> None:
    nodes = parse_inlay(source)
    assert check_inlay(nodes, FIELDS) == []
    where = context()
    assert compile_inlay(nodes, FIELDS).render(record, where, plain) == tell(nodes, FIELDS, record, where)


_PIECES = [
    "@{first_name}", '@{town else "x"}', "@{pledge}", "@{renews_on}", "@{visits_last_year as percent}",
    "@{if volunteer}", "@{each s in adopted_specimens}", "@{s.name}", "@{pledge * ", "(", "count(", ")", " - 3 days", '@{elif town is "a"}', "@{else}", "@{end}", "@{# n }", "@@{", "@{", "}", "text \n", '"', "ß",
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
