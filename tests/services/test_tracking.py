"""What is noted of opens and clicks: counted once, taken back when it turns out to be a machine's, and not at all where somebody
wishes so.
"""

from datetime import timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.post import Post
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import Tracked
from uvarovite.services.contacts.editing import set_wish
from uvarovite.services.contacts.people import person
from uvarovite.services.delivery.traces import sent_message, trace
from uvarovite.services.delivery.watching import dispatch_view
from uvarovite.services.responses.of_runs import RunResponses, run_responses
from uvarovite.services.responses.tracking import Seen, record_seen
from uvarovite.store.database import change_sql, run_sql

PERSON = "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0"
LATER = NOW + timedelta(hours=2)


@pytest.fixture
def post(museum: Museum) -> Post:
    return Post(museum)


def seen(delivery: int, link: int | None, seconds: float = 0, *, unseen: bool = False) -> Seen:
    return Seen(delivery, link, "GET", PERSON, LATER + timedelta(seconds=seconds), unseen=unseen)


def told(post: Post) -> RunResponses:
    return run_responses(post.museum.database, SYSTEM, post.run_id, keyring=KEYRING)


def figures(post: Post) -> tuple[int, int, int]:
    view = told(post)
    return view.opened, view.clicked, view.machine_events


def test_what_was_counted_of_a_person_is_taken_back_when_it_turns_out_to_be_a_machines(post: Post) -> None:
    database, (first, second) = post.museum.database, (post.delivery("M-01"), post.delivery("M-02"))
    record_seen(database, [seen(first, None), seen(first, 0, 1), seen(second, 0, 1)])
    assert figures(post) == (1, 2, 0)
    record_seen(database, [seen(first, None, 4, unseen=True)])
    assert figures(post) == (0, 1, 3)
    steps = [step.words for step in trace(database, SYSTEM, first).steps]
    assert "a machine followed a link that nobody sees" in steps
    assert any("opened by a machine: it came together with" in words for words in steps)
    # The next day they read it themselves.
    record_seen(database, [seen(first, 0, 86_400)])
    assert figures(post) == (0, 2, 3)


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(st.sampled_from(["M-01", "M-02"]), st.none() | st.integers(0, 3), st.integers(0, 50), st.booleans()),
        max_size=12,
    ),
    st.data(),
)
def test_however_fetches_are_cut_into_batches_the_figures_are_those_of_the_events(
    post: Post, fetches: list[tuple[str, int | None, int, bool]], data: st.DataObject
) -> None:
    with post.museum.database.transaction() as tx:
        for table in ("response_event", "response_first", "response_count"):
            change_sql(tx, f"DELETE FROM {table}")
    all_seen = [
        seen(post.delivery(no), None if unseen else link, at, unseen=unseen) for no, link, at, unseen in fetches
    ]
    cuts = sorted(data.draw(st.lists(st.integers(0, len(all_seen)), max_size=3)))
    for begin, end in zip([0, *cuts], [*cuts, len(all_seen)], strict=True):
        record_seen(post.museum.database, all_seen[begin:end])
    with post.museum.database.transaction() as tx:
        events = run_sql(tx, "SELECT delivery_id, kind, machine_rule, at, detail->>'link' AS link FROM response_event")
        firsts = {tuple(row) for row in run_sql(tx, "SELECT delivery_id, kind FROM response_first")}
    people = {(row.delivery_id, row.kind) for row in events if row.machine_rule is None}
    assert firsts == people
    kinds = [kind for _, kind in people]
    machines = sum(row.machine_rule is not None for row in events)
    assert figures(post) == (kinds.count("opened"), kinds.count("clicked"), machines)
    assert len(events) == len(fetches)
    # Cut as they were, they were told apart as if all had come at once.
    rules = sorted((row.delivery_id, row.at, row.link or "", row.machine_rule or "") for row in events)
    with post.museum.database.transaction() as tx:
        for table in ("response_event", "response_first", "response_count"):
            change_sql(tx, f"DELETE FROM {table}")
    record_seen(post.museum.database, all_seen)
    with post.museum.database.transaction() as tx:
        sql = "SELECT delivery_id, machine_rule, at, detail->>'link' AS link FROM response_event"
        at_once = sorted((row.delivery_id, row.at, row.link or "", row.machine_rule or "") for row in run_sql(tx, sql))
    assert rules == at_once


def test_who_wishes_not_to_be_noted_is_not_at_once_and_for_what_they_had_before(post: Post) -> None:
    database, museum = post.museum.database, post.museum
    set_wish(database, SYSTEM, museum.contact_id("M-01"), Tracked.OFF, now=LATER)
    set_wish(database, SYSTEM, museum.contact_id("M-02"), Tracked.COUNTED, now=LATER)
    record_seen(database, [seen(post.delivery(no), link) for no in ("M-01", "M-02", "M-03") for link in (None, 0)])
    view = told(post)
    assert (view.opened, view.clicked, view.opened_counted, view.clicked_counted) == (1, 1, 1, 1)
    with database.transaction() as tx:
        rows = run_sql(tx, "SELECT DISTINCT contact_no FROM response_event JOIN contact ON contact.id = contact_id")
    assert [row.contact_no for row in rows] == ["M-03"]
    assert person(database, SYSTEM, museum.contact_id("M-01"), now=LATER).wish is Tracked.OFF
    set_wish(database, SYSTEM, museum.contact_id("M-01"), Tracked.BY_PERSON, now=LATER)
    assert person(database, SYSTEM, museum.contact_id("M-01"), now=LATER).wish is None
    record_seen(database, [seen(post.delivery("M-01"), None)])
    assert told(post).opened == 2


def test_what_somebody_wishes_is_obeyed_by_the_message_itself_which_is_kept_as_it_was_sent(museum: Museum) -> None:
    set_wish(museum.database, SYSTEM, museum.contact_id("M-01"), Tracked.OFF, now=NOW)
    post = Post(museum)
    # They change their mind, and the message stays what it was.
    set_wish(museum.database, SYSTEM, museum.contact_id("M-01"), None, now=LATER)
    for contact_no, is_tracked in (("M-01", False), ("M-02", True)):
        sent = sent_message(
            museum.database, SYSTEM, post.delivery(contact_no), keyring=KEYRING, secret=b"x" * 32, now=LATER
        )
        assert ("/r/" in sent.html, "/o/" in sent.html) == (is_tracked, is_tracked)
        assert "/u/" in sent.html
    words = [step.words for step in trace(museum.database, SYSTEM, post.delivery("M-01")).steps]
    assert "as they wish, what they open and follow is not noted" in words
    # What is asked for by a message that said nothing of it is not noted either.
    record_seen(museum.database, [seen(post.delivery("M-01"), None)])
    assert told(post).opened == 0


def test_a_campaign_that_only_counts_has_figures_and_nobodys_name(museum: Museum) -> None:
    assert "Opens are counted, but not by whom" in museum.change(track_opens=Tracked.COUNTED).summary
    museum.change(track_clicks=Tracked.OFF)
    post = Post(museum)
    counted = [Seen(0, None, "GET", PERSON, LATER, counted_run=post.run_id)] * 3
    scanner = Seen(0, None, "GET", "LinkScan/3.1", LATER, counted_run=post.run_id)
    nowhere = Seen(0, None, "GET", PERSON, LATER, counted_run=post.run_id + 1)
    assert record_seen(museum.database, [*counted, scanner, nowhere]) == 4
    view = told(post)
    assert (view.opened, view.opened_counted, view.tracking.clicks) == (0, 3, Tracked.OFF)
    watched = dispatch_view(museum.database, SYSTEM, post.run_id, LATER)
    assert (watched.counted, watched.tracking) == ({"opened": 3}, view.tracking)
    assert post.events() == []
