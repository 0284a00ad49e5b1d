"""What people really write instead of criteria, and what is suggested: the same thing as criteria, or nothing."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.fields import FIELDS, NAMES
from uvarovite.core.expressions import check_criteria, meant_criteria, parse_criteria, print_criteria

# (what is written, what is meant; None: nothing, or more than one thing)
WRITTEN: list[tuple[str, str | None]] = [
    # blank or not
    ("town is empty", "town is blank"),
    ("town empty", "town is blank"),
    ("town is not set", "town is blank"),
    ("town not set", "town is blank"),
    ("town isn't set", "town is blank"),
    ("town is null", "town is blank"),
    ("town = null", "town is blank"),
    ("town is missing", "town is blank"),
    ('town = ""', "town is blank"),
    ('town is ""', "town is blank"),
    ("town has no value", "town is blank"),
    ("town is set", "town is not blank"),
    ("town exists", "town is not blank"),
    ("town is not empty", "town is not blank"),
    ("town not empty", "town is not blank"),
    ("town != null", "town is not blank"),
    ('town != ""', "town is not blank"),
    ("town has a value", "town is not blank"),
    ("pledge is not set", "pledge is blank"),
    ("renews_on is empty", "renews_on is blank"),
    ("adopted_specimens is empty", "adopted_specimens is blank"),
    # texts
    ("town is Skarn", 'town is "Skarn"'),
    ("town is skarn valley", 'town is "skarn valley"'),
    ("town = Skarn", 'town is "Skarn"'),
    ('town = "Skarn"', 'town is "Skarn"'),
    ('town == "Skarn"', 'town is "Skarn"'),
    ("town: Skarn", 'town is "Skarn"'),
    ("town equals Skarn", 'town is "Skarn"'),
    ('town is equal to "Skarn"', 'town is "Skarn"'),
    ("town is “Skarn”", 'town is "Skarn"'),
    ("town is ‘Skarn’", 'town is "Skarn"'),
    ("town is 'Skarn'", 'town is "Skarn"'),
    ("town is „Skarn“", 'town is "Skarn"'),
    ("town is «Skarn»", 'town is "Skarn"'),
    ('town is "Skarn', 'town is "Skarn"'),
    ('town is "Skarn and volunteer', None),
    ("town is Skarn's End", 'town is "Skarn\'s End"'),
    ('town != "Skarn"', 'town is not "Skarn"'),
    ('town <> "Skarn"', 'town is not "Skarn"'),
    ("town isn't Skarn", 'town is not "Skarn"'),
    ("town is not Skarn", 'town is not "Skarn"'),
    ('town like "Sk"', 'town contains "Sk"'),
    ('town includes "Sk"', 'town contains "Sk"'),
    ('town does not contain "Sk"', 'not town contains "Sk"'),
    ("town doesn't contain Sk", 'not town contains "Sk"'),
    ('town begins with "Sk"', 'town starts with "Sk"'),
    ('town startswith "Sk"', 'town starts with "Sk"'),
    ("town starts Sk", 'town starts with "Sk"'),
    ('town ends in "arn"', 'town ends with "arn"'),
    ("town is 12", 'town is "12"'),
    # several values
    ('town is "Skarn" or "Marlby"', 'town in ("Skarn", "Marlby")'),
    ("town is Skarn or Marlby", 'town in ("Skarn", "Marlby")'),
    ('town is "Skarn", "Marlby"', 'town in ("Skarn", "Marlby")'),
    ("town in (Skarn, Marlby)", 'town in ("Skarn", "Marlby")'),
    ("town in Skarn, Marlby", 'town in ("Skarn", "Marlby")'),
    ('town in "Skarn"', 'town in ("Skarn")'),
    ('town is one of "Skarn", "Marlby"', 'town in ("Skarn", "Marlby")'),
    ("town is either Skarn or Marlby", 'town in ("Skarn", "Marlby")'),
    ('town is "Skarn" or "Marlby" or "Breccia"', 'town in ("Skarn", "Marlby", "Breccia")'),
    ('town is "Skarn" and "Marlby"', None),
    ('town is not "Skarn" and "Marlby"', 'town not in ("Skarn", "Marlby")'),
    ('town is not "Skarn" or "Marlby"', None),
    ('town is "Skarn" or "Marlby" and volunteer', 'town in ("Skarn", "Marlby") and volunteer'),
    ('town is Skarn or membership is "Patron"', 'town is "Skarn" or membership is "Patron"'),
    ("membership is Patron or Fellow", 'membership in ("Patron", "Fellow")'),
    ("membership patron", None),
    ("visits_last_year is 1 or 2", "visits_last_year in (1, 2)"),
    # choices
    ('membership = "patron"', 'membership is "patron"'),
    ("membership is patrons", 'membership is "Patron"'),
    ('membership is "Fiend"', 'membership is "Friend"'),
    ('membership is "Emperor"', None),
    ("membership is not Friend", 'membership is not "Friend"'),
    # yes and no
    ("volunteer is yes", "volunteer"),
    ("volunteer = yes", "volunteer"),
    ("volunteer yes", "volunteer"),
    ("volunteer is true", "volunteer"),
    ("volunteer = 1", "volunteer"),
    ('volunteer is "yes"', "volunteer"),
    ("is volunteer", None),
    ("volunteer is not yes", "not volunteer"),
    ("volunteer is no", "not volunteer and volunteer is not blank"),
    ("volunteer = false", "not volunteer and volunteer is not blank"),
    ("volunteer is perhaps", None),
    ("!volunteer", "not volunteer"),
    # numbers
    ("visits_last_year = 3", "visits_last_year is 3"),
    ("visits_last_year more than 3", "visits_last_year > 3"),
    ("visits_last_year is more than 3", "visits_last_year > 3"),
    ("visits_last_year greater than 3", "visits_last_year > 3"),
    ("visits_last_year at least 3", "visits_last_year >= 3"),
    ("visits_last_year is at least 3", "visits_last_year >= 3"),
    ("visits_last_year => 3", "visits_last_year >= 3"),
    ("visits_last_year ≥ 3", "visits_last_year >= 3"),
    ("visits_last_year less than 3", "visits_last_year < 3"),
    ("visits_last_year up to 3", "visits_last_year <= 3"),
    ("visits_last_year =< 3", "visits_last_year <= 3"),
    ("visits_last_year != 3", "visits_last_year is not 3"),
    ('visits_last_year > "3"', "visits_last_year > 3"),
    ("visits_last_year > 1,000", "visits_last_year > 1000"),
    ("visits_last_year > 1.000", None),
    ("visits_last_year > 1,234.5", "visits_last_year > 1234.5"),
    ("visits_last_year between 1 to 3", "visits_last_year between 1 and 3"),
    ("visits_last_year between 1-3", None),
    ("visits_last_year > many", None),
    ("visits last year > 3", "visits_last_year > 3"),
    # money
    ("pledge >= 50", "pledge >= 50 EUR"),
    ("pledge >= €50", "pledge >= 50 EUR"),
    ("pledge >= 50€", "pledge >= 50 EUR"),
    ("pledge >= 50 euros", "pledge >= 50 EUR"),
    ("pledge >= EUR 50", "pledge >= 50 EUR"),
    ("pledge > €1,250.50", "pledge > 1250.50 EUR"),
    ("pledge over 50", "pledge > 50 EUR"),
    ("pledge >= $50", None),
    ("pledge >= 50 USD", None),
    ("pledge between 10 and 20", "pledge between 10 EUR and 20 EUR"),
    # days
    ("renews_on after 31/12/2026", "renews_on after 2026-12-31"),
    ("renews_on after 12/31/2026", "renews_on after 2026-12-31"),
    ("renews_on after 03/04/2026", None),
    ("renews_on after 31.12.2026", "renews_on after 2026-12-31"),
    ("renews_on after 31 December 2026", "renews_on after 2026-12-31"),
    ("renews_on after December 31, 2026", "renews_on after 2026-12-31"),
    ('renews_on after "2026-12-31"', "renews_on after 2026-12-31"),
    ("renews_on is yesterday", "renews_on is today - 1 day"),
    ("renews_on before tomorrow", "renews_on before today + 1 day"),
    ("renews_on = today", "renews_on is today"),
    ("renews_on > 2026-05-01", "renews_on after 2026-05-01"),
    ("renews_on < today", "renews_on before today"),
    ("renews_on >= 2026-05-01", "renews_on after 2026-04-30"),
    ("renews_on <= 2026-05-01", "renews_on before 2026-05-02"),
    ("renews_on since 2026-05-01", "renews_on after 2026-04-30"),
    ("renews_on in the next 30 days", "renews_on within next 30 days"),
    ("renews_on next 30 days", "renews_on within next 30 days"),
    ("renews_on within the last year", None),
    ("renews_on within last 1 year", "renews_on within last 12 months"),
    ("renews_on within 30 days", None),
    ("renews_on older than 30 days", "renews_on before today - 30 days"),
    ("renews_on before 3 weeks ago", "renews_on before today - 3 weeks"),
    ("renews_on in 3 days", None),
    ("renews_on is 31.2.2026", None),
    ("renews_on this month", None),
    ("last_seen after 31/12/2026", "last_seen after 2026-12-31"),
    ("Renews on after today", "renews_on after today"),
    # fields by other names
    ('city is "Skarn"', 'town is "Skarn"'),
    ("City = Skarn", 'town is "Skarn"'),
    ('email contains "slatepost"', 'address contains "slatepost"'),
    ('E-mail contains "slatepost"', 'address contains "slatepost"'),
    ("email is set", "address is not blank"),
    ('first name is "Ada"', 'first_name is "Ada"'),
    ("First Name = Ada", 'first_name is "Ada"'),
    ("firstname is blank", "first_name is blank"),
    ('surname is "Gray"', 'last_name is "Gray"'),
    ('twon is "Skarn"', 'town is "Skarn"'),
    ('Membership = "Patron"', 'membership is "Patron"'),
    ('shoe_size is "41"', None),
    # joints and brackets
    ('town is "Skarn" && volunteer', 'town is "Skarn" and volunteer'),
    ('town is "Skarn" & volunteer', 'town is "Skarn" and volunteer'),
    ('town is "Skarn", volunteer', 'town is "Skarn" and volunteer'),
    ("volunteer || town is Skarn", 'volunteer or town is "Skarn"'),
    ('town is "Skarn" AND volunteer', 'town is "Skarn" and volunteer'),
    ('town is "Skarn" OR volunteer', 'town is "Skarn" or volunteer'),
    ('volunteer except town is "Skarn"', 'volunteer and not town is "Skarn"'),
    ('volunteer but not town is "Skarn"', 'volunteer and not town is "Skarn"'),
    ('everyone except town is "Skarn"', 'not town is "Skarn"'),
    ("everyone who volunteer", "volunteer"),
    ("everybody", "everyone"),
    ("all", "everyone"),
    ("*", "everyone"),
    ('where town is "Skarn"', 'town is "Skarn"'),
    ('people whose town is "Skarn"', 'town is "Skarn"'),
    ('town is "Skarn")', 'town is "Skarn"'),
    ('(town is "Skarn"', 'town is "Skarn"'),
    ('(town is "Skarn" or volunteer', 'town is "Skarn" or volunteer'),
    ('((town is "Skarn")', 'town is "Skarn"'),
    ("not (town is Skarn", 'not town is "Skarn"'),
    ("volunteer and", None),
    ("hello there", None),
    # lists
    ("adopted_specimens > 2", "count(adopted_specimens) > 2"),
    ("adopted_specimens at least 2", "count(adopted_specimens) >= 2"),
    ("count adopted_specimens >= 1", "count(adopted_specimens) >= 1"),
    ("any adopted_specimens name is Fluorite", 'any adopted_specimens (name is "Fluorite")'),
    ("any adopted specimens with name is Fluorite", 'any adopted_specimens (name is "Fluorite")'),
    # more than the record
    ("subscribed to Field walks", 'subscribed to "Field walks"'),
    ('subscribed "Field walks"', 'subscribed to "Field walks"'),
    ('subscribed to "Feild walks"', 'subscribed to "Field walks"'),
    ("subscribed to Gardening", None),
    ("tagged lamp owner", 'tagged "Lamp owner"'),
    ("tagged with lamp owner and volunteer", 'tagged "Lamp owner" and volunteer'),
    ("imported from people.csv", 'imported from "people.csv"'),
    ("opened Autumn", 'opened campaign "Autumn"'),
    ('opened "Autumn"', 'opened campaign "Autumn"'),
    ("did not open", "never opened"),
    ("hasn't clicked in the last 30 days", "never clicked within last 30 days"),
    ("opened last 30 days", "opened within last 30 days"),
    ("opened in the last month", None),
]


@pytest.mark.parametrize(("written", "meant"), WRITTEN)
def test_what_is_written_from_habit_has_the_right_suggestion_or_none(written: str, meant: str | None) -> None:
    found = meant_criteria(written, FIELDS, NAMES, decimal_comma=False)
    assert found == meant
    if found is not None:
        # Taking it is the end of it: it parses, makes sense, and is written in the one way.
        node = parse_criteria(found)
        assert check_criteria(node, FIELDS, NAMES) == []
        assert print_criteria(node) == found


def test_an_amount_is_read_in_the_organisations_style() -> None:
    assert meant_criteria("pledge > 1.000", FIELDS, NAMES, decimal_comma=True) == "pledge > 1000 EUR"
    assert meant_criteria("pledge > 1,5", FIELDS, NAMES, decimal_comma=True) == "pledge > 1.5 EUR"
    assert meant_criteria("pledge > 1,000", FIELDS, NAMES) is None


@given(st.text(max_size=60) | st.lists(st.sampled_from(
    ["town", "is", "not", "and", "or", "(", ")", '"', "Skarn", "renews_on", "in", "the", "last", "30", "days", "€", ","]
), max_size=14).map(" ".join))  # fmt: skip
def test_any_text_has_a_meaning_that_can_be_taken_or_none(text: str) -> None:
    found = meant_criteria(text, FIELDS, NAMES, decimal_comma=False)
    assert found is None or check_criteria(parse_criteria(found), FIELDS, NAMES) == []
