"""What came back of a run: people once each, machines apart, links with who followed them, who left and why."""

import re
from datetime import timedelta

import pytest

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.post import Post, letter
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.errors import NotFound
from uvarovite.services.responses.leaving import leave_topic
from uvarovite.services.responses.of_runs import letter_with_clicks, run_responses, runs_lately
from uvarovite.services.responses.tracking import Seen, record_seen
from uvarovite.services.responses.visits import Visit

PERSON, SCANNER = "Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0", "LinkScan/3.1"
LATER = NOW + timedelta(hours=2)


@pytest.fixture
def post(museum: Museum) -> Post:
    return Post(museum)


def test_each_person_counts_once_for_each_thing_and_machines_stand_apart(post: Post) -> None:
    museum, (first, second, third) = post.museum, (post.delivery(one) for one in ("M-01", "M-02", "M-03"))
    seen = [Seen(first, None, "GET", PERSON, LATER)] * 3 + [Seen(first, 0, "GET", PERSON, LATER)] * 2
    seen += [
        Seen(second, 0, "GET", PERSON, LATER),
        Seen(third, 0, "HEAD", SCANNER, LATER),
        Seen(third, None, "GET", SCANNER, LATER),
    ]
    record_seen(museum.database, seen)
    post.writes(letter("Is it open?", about=f"<{post.run_id}.{first}.field_walks@{post.domain}>"))
    token = sign_token(Token(purpose=Purpose.UNSUBSCRIBE, delivery_id=second), KEYRING)
    visit = Visit(method="POST", agent=PERSON, origin="here")
    leave_topic(museum.database, token, visit, channel="link", keyring=KEYRING, why="Too far", now=LATER)
    told = run_responses(museum.database, SYSTEM, post.run_id, keyring=KEYRING)
    assert (told.planned, told.accepted, told.opened, told.clicked, told.replied, told.left) == (5, 5, 1, 2, 1, 1)
    assert (told.machine_events, told.waiting, told.bounced, told.complained) == (2, 1, 0, 0)
    assert [(one.number, one.people, one.machines) for one in told.links] == [(0, 2, 1)]
    assert [(one.delivery_id, one.words, one.why) for one in told.leavers] == [
        (second, "left by the link in the message", "Too far")
    ]
    assert [one.run_id for one in runs_lately(museum.database, SYSTEM)] == [post.run_id]


def test_the_clicks_are_drawn_over_the_message_that_was_sent(post: Post) -> None:
    record_seen(post.museum.database, [Seen(post.delivery("M-02"), 0, "GET", PERSON, LATER)])
    html = letter_with_clicks(post.museum.database, SYSTEM, post.run_id, keyring=KEYRING)
    found = re.search(r"Choose a walk.*?</a><span[^>]*>(\d+)</span>", html, re.DOTALL)
    assert found is not None
    assert found[1] == "1"


def test_of_a_run_that_is_not_there_or_has_sent_nothing_it_says_so(museum: Museum) -> None:
    run_id = museum.release(NOW)
    assert run_responses(museum.database, SYSTEM, run_id, keyring=KEYRING).accepted == 0
    with pytest.raises(NotFound):
        letter_with_clicks(museum.database, SYSTEM, run_id, keyring=KEYRING)
    with pytest.raises(NotFound):
        run_responses(museum.database, SYSTEM, run_id + 1, keyring=KEYRING)
