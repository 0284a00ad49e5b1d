"""What somebody changed on their preference page, told apart from what they left as it was."""

from urllib.parse import urlencode

from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.consent.own_limit import AtMost
from uvarovite.core.messages import Tracked
from uvarovite.core.responses.preferences import LONGEST_NAME, Standing, Wishes, form_back, read_reason, read_wishes

NUMBERS = st.frozensets(st.integers(1, 9))
LIMIT = st.sampled_from(["", "week", "month"])


@given(NUMBERS, NUMBERS, LIMIT, LIMIT, st.text(max_size=20), st.text(max_size=20))
def test_only_what_was_touched_is_changed(
    were: frozenset[int], on: frozenset[int], was: str, limit: str, name_was: str, name: str
) -> None:
    told = [("topic", str(one)) for one in on] + [("topic_was", str(one)) for one in were]
    told += [
        ("at_most", limit),
        ("at_most_was", was),
        ("first_name", name),
        ("first_name_was", name_was),
        ("save", "yes"),
    ]
    wishes = read_wishes(urlencode(told).encode())
    assert wishes is not None
    assert wishes.topics == {topic: topic in on for topic in on ^ were}
    assert (wishes.at_most, wishes.limit_lifted) == (
        AtMost(limit) if limit and limit != was else None,
        limit == "" and was != "",
    )
    if name == name_was:
        assert "first_name" not in wishes.fields
    assert wishes.is_nothing == (on == were and limit == was and not wishes.fields)


@given(st.binary(max_size=400))
def test_no_bytes_are_taken_for_a_wish_that_they_are_not(body: bytes) -> None:
    wishes = read_wishes(body)
    assert wishes is None or b"save" in body or b"leave_all" in body
    assert isinstance(read_reason(body), str)


def test_hostile_forms_are_read_as_nothing_or_cut() -> None:
    assert read_wishes(b"save=1&topic=" + b"1" * 40 + b"&topic=-1&topic=%00&topic=%D9%A1&at_most=daily") == Wishes()
    assert read_wishes(b"&".join([b"topic=1"] * 600) + b"&save=1") is None
    assert read_wishes(b"save=1&first_name=\xff") is None
    wishes = read_wishes(b"save=1&first_name_was=Ada&first_name=A%0D%0ABcc%3A+x%00" + b"y" * 500)
    assert wishes is not None
    assert wishes.fields["first_name"].startswith("A Bcc: x")
    assert len(wishes.fields["first_name"]) == LONGEST_NAME
    assert read_reason(b"leave=yes&why=too+many%0Amails") == "too many mails"


texts = st.fixed_dictionaries(
    {
        "at_most": st.sampled_from(["", "week", "month"]),
        "noted": st.sampled_from(list(Tracked)).map(str),
        "first_name": st.sampled_from(["", "Ada", "Ada & <Zoë>", "=1+1"]),
        "own_town": st.sampled_from(["", "Skarn"]),
    }
)
standings = st.builds(Standing, topics=st.frozensets(st.integers(1, 4)), texts=texts, paused=st.booleans())


@given(standings, standings)
def test_the_form_that_takes_a_change_back_says_just_that(before: Standing, after: Standing) -> None:
    told = form_back(before, after)
    if not told:
        assert (before.topics, before.texts) == (after.topics, after.texts)
        assert before.paused or not after.paused
        return
    wishes = read_wishes(urlencode([*told, ("save", "yes")]).encode())
    assert wishes is not None
    on = {topic for topic in after.topics | before.topics if wishes.topics.get(topic, topic in after.topics)}
    assert on == before.topics
    limit = wishes.at_most or ("" if wishes.limit_lifted else after.texts["at_most"])
    assert (limit, wishes.noted or after.texts["noted"]) == (before.texts["at_most"], before.texts["noted"])
    assert {**_fields(after), **wishes.fields} == _fields(before)
    assert wishes.resumes == (after.paused and not before.paused)


def _fields(standing: Standing) -> dict[str, str]:
    return {"first_name": standing.texts["first_name"], "town": standing.texts["own_town"]}
