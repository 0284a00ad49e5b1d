"""Whatever anybody sends to the pages for recipients: it is answered kindly, changes nothing without a token of ours for just
that, and a GET never changes anything about anybody.
"""

from collections.abc import Iterator
from urllib.parse import quote

import pytest
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.post import Post
from tests.support.web import TestClock, web_client
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.organisation.readers import ReaderSettings, change_readers, readers
from uvarovite.services.responses.copies import allow_public_copy
from uvarovite.services.responses.sign_up_forms import FormChange, forms, save_form
from uvarovite.store.database import run_sql

ROUTES = ("/o/{}.gif", "/r/{}", "/u/{}", "/u/{}/preferences", "/v/{}", "/c/{}", "/s/{}", "/p/{}.png")
CHANGING = {("POST", "/u/{}"), ("POST", "/u/{}/preferences")}
KEPT = (
    "consent_event",
    "suppression",
    "contact_change",
    "own_limit",
    "tracking_wish",
    "contact_note",
    "address_closing",
)
# What forms of these pages are made of, and what stands beside it.
NAMES = (
    "leave", "stay", "why", "save", "leave_all", "topic", "topic_was", "at_most", "at_most_was", "pause", "resume", "noted",
    "noted_was", "first_name", "first_name_was", "own_town", "own_town_was", "address", "language", "shown", "website", "field_town",
    "confirm", "List-Unsubscribe",
)  # fmt: skip
VALUES = ("yes", "One-Click", "1", "2", "week", "off", "ada@slatepost.example", "de", "")
words = st.text(max_size=30)
forms_sent = st.lists(st.tuples(st.sampled_from(NAMES), st.sampled_from(VALUES) | words), max_size=6)


def encoded(pairs: list[tuple[str, str]]) -> bytes:
    return "&".join(f"{name}={quote(value.replace(chr(0xD800), ''))}" for name, value in pairs).encode()


bodies = forms_sent.map(encoded) | st.binary(max_size=200)
headers = st.fixed_dictionaries(
    {},
    optional={
        name: st.text(st.characters(min_codepoint=32, max_codepoint=126), max_size=60)
        for name in (
            "User-Agent",
            "Accept-Language",
            "Referer",
            "Origin",
            "Cookie",
            "X-Forwarded-For",
            "Range",
            "If-None-Match",
        )
    },
)


@pytest.fixture
def post(museum: Museum) -> Post:
    made = Post(museum)
    database = museum.database
    settings_now: ReaderSettings = readers(database, SYSTEM).settings
    change_readers(
        database,
        SYSTEM,
        ReaderSettings(opens=settings_now.opens, clicks=settings_now.clicks, fields=["town"], inner_topics=[]),
    )
    allow_public_copy(database, SYSTEM, made.run_id, True)
    with database.transaction() as tx:
        sender = run_sql(tx, "SELECT id FROM sender LIMIT 1")[0].id
    form = FormChange(
        name="Site", title="Walks", intro="", wording="Write to me of walks.", topics=[museum.topic_id], asks=["town"],
        language="en", sender_id=sender, closed=False,
    )  # fmt: skip
    save_form(database, SYSTEM, None, form, revision=None, now=NOW)
    return made


@pytest.fixture
def visited(post: Post, clock: TestClock) -> Iterator[TestClient]:
    # Nobody signed in: a cookie would be another visitor's.
    with web_client(post.museum.database, clock) as made:
        yield made


def standing(post: Post) -> list[tuple[object, ...]]:
    with post.museum.database.transaction() as tx:
        return [
            tuple(run_sql(tx, f"SELECT count(*), coalesce(max(ctid::text), '') FROM {table}")[0]) for table in KEPT
        ] + [
            tuple(row)
            for row in run_sql(tx, "SELECT id, first_name, last_name, language, own::text FROM contact ORDER BY id")
        ]


def test_whatever_anybody_sends_is_answered_and_changes_nothing_that_it_may_not(
    visited: TestClient, post: Post, clock: TestClock
) -> None:
    deliveries = [post.delivery("M-01"), post.run_id, 1, 0, 2**63]
    key = forms(post.museum.database, SYSTEM, public_url="")[0].places[0].url.removeprefix("/s/")
    signed = st.builds(
        lambda purpose, number, link: (
            purpose,
            sign_token(Token(purpose=purpose, delivery_id=number, number=link), KEYRING),
        ),
        st.sampled_from(Purpose),
        st.sampled_from(deliveries),
        st.sampled_from([0, 1, 65_535]),
    )
    forged = st.tuples(signed, st.integers(0, 37), st.sampled_from("Az09-_")).map(
        lambda told: (None, told[0][1][: told[1]] + told[2] + told[0][1][told[1] + 1 :])
    )
    tokens = signed | forged | st.tuples(st.none(), words) | st.just((None, key))

    @settings(max_examples=400, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(
        st.sampled_from(ROUTES),
        st.sampled_from(["GET", "HEAD", "POST", "PUT", "DELETE", "OPTIONS"]),
        tokens,
        bodies,
        headers,
    )
    def take(route: str, method: str, token: tuple[Purpose | None, str], body: bytes, told: dict[str, str]) -> None:
        # Another minute: none of this is about how often somebody comes.
        clock.now = clock.now.replace(year=clock.now.year + 1)
        before = standing(post)
        url = route.format(quote(token[1].replace("\ud800", ""), safe=""))
        content = body if method in ("POST", "PUT") else b""
        kind = {"Content-Type": "application/x-www-form-urlencoded"}
        answer = visited.request(method, url, content=content, headers={**told, **kind}, follow_redirects=False)
        assert answer.status_code < 500
        assert "set-cookie" not in answer.headers
        if "text/html" in answer.headers.get("content-type", ""):
            # What is no path of these pages is the application's own page.
            assert "frame-ancestors 'none'" in answer.headers["content-security-policy"]
        if answer.status_code == 302:
            assert answer.headers["location"].startswith("https://skarnmuseum.example/")
        may_change = (method, route) in CHANGING and token[0] in (Purpose.UNSUBSCRIBE, Purpose.LEAVE_WELCOME)
        if not may_change:
            assert standing(post) == before

    take()
