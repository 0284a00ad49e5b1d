"""What a message says of its reader: no more than the organisation, the campaign and the reader want; and machines by what they
do together.
"""

import re
from datetime import UTC, datetime, timedelta
from itertools import permutations, product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from uvarovite.core.contacts import Field, FieldType
from uvarovite.core.messages import (
    NEWEST_RENDERER,
    Composer,
    Letterhead,
    Snapshot,
    Tracked,
    Tracking,
    tracking_words,
)
from uvarovite.core.responses import (
    BURST_LINKS,
    Beside,
    Fetch,
    Purpose,
    derive_keyring,
    machine_reason,
    read_leave_address,
    read_return_address,
    read_token,
)
from uvarovite.services.messages.composing import SignedTokens

KEYRING = derive_keyring(b"sixteen bytes at least")
NOW = datetime(2026, 11, 23, 9, tzinfo=UTC)
LETTERHEAD = Letterhead(
    organisation="Skarn Valley Mineral Museum", postal_address="1 Slate Row, Skarn", locale="en_GB",
    time_zone="Europe/London", list_domain="skarnmuseum.example", topic_key="field_walks", topic_name="Field walks",
    from_name="Museum", from_address="walks@skarnmuseum.example", reply_to=None, public_url="http://127.0.0.1:8040", key_id=1,
)  # fmt: skip
FIELDS = {"contact_no": Field(key="contact_no", label="Contact no.", type=FieldType.TEXT, standard=True)}
CONTENT = {
    "version": 8,
    "language": "en",
    "subject": "Walks",
    "blocks": [
        {"id": "a", "kind": "button", "label": "All", "url": "https://skarnmuseum.example/walks"},
        {"id": "b", "kind": "button", "label": "Own", "url": "https://skarnmuseum.example/card?no=@{contact_no}"},
        {"id": "c", "kind": "button", "label": "Write", "url": "mailto:walks@skarnmuseum.example"},
    ],
}
RUN, DELIVERY = 7, 41
levels = st.sampled_from(Tracked)


def compose(tracking: Tracking, wish: Tracked | None, **more: object) -> str:
    snapshot = Snapshot(letterhead=LETTERHEAD, fields=FIELDS, renderer=NEWEST_RENDERER, tracking=tracking, **more)
    composer = Composer(snapshot=snapshot, content=CONTENT, run_id=RUN, tokens=SignedTokens(KEYRING, 1))
    made = composer.compose(
        delivery_id=DELIVERY,
        address="ada@slatepost.example",
        record_json={"contact_no": "M-01"},
        consent_since=None,
        marked_at=NOW,
        wish=wish,
    )
    return made.raw.decode().replace("=\r\n", "").replace("=3D", "=")


@given(levels, levels, st.none() | levels)
def test_links_tell_no_more_than_the_strictest_wants(opens: Tracked, clicks: Tracked, wish: Tracked | None) -> None:
    raw = compose(Tracking(opens=opens, clicks=clicks), wish)
    told = {}
    for token in re.findall(r"/[or]/([\w-]{38})", raw):
        read = next(read for one in Purpose if (read := read_token(token, one, KEYRING)))
        told[read.purpose, read.number] = read.delivery_id
    order = list(Tracked)
    opened, clicked = (order[max(order.index(level), order.index(wish) if wish else 0)] for level in (opens, clicks))
    wanted: dict[tuple[Purpose, int], int] = {}
    if opened is Tracked.BY_PERSON:
        wanted[Purpose.OPEN, 0] = DELIVERY
    elif opened is Tracked.COUNTED:
        wanted[Purpose.COUNTED_OPEN, 0] = RUN
    if clicked is Tracked.BY_PERSON:
        wanted |= {(Purpose.CLICK, 0): DELIVERY, (Purpose.CLICK, 1): DELIVERY, (Purpose.UNSEEN, 0): DELIVERY}
    elif clicked is Tracked.COUNTED:
        wanted[Purpose.COUNTED_CLICK, 0] = RUN
    assert told == wanted
    # What holds something of the person's own would tell who follows it: it leads there straight.
    assert ("skarnmuseum.example/card?no=M-01" in raw) is (clicked is not Tracked.BY_PERSON)
    assert ("skarnmuseum.example/walks" in raw) is (clicked is Tracked.OFF)
    assert "mailto:walks@skarnmuseum.example" in raw


def test_leaving_and_the_copy_stand_in_every_message_and_the_mail_address_where_mail_comes_to_us() -> None:
    for opens, clicks, wish in product(Tracked, Tracked, (None, *Tracked)):
        raw = compose(Tracking(opens=opens, clicks=clicks), wish, leave_domain="back.skarnmuseum.example")
        header = re.search(r"List-Unsubscribe: <(http[^>]+)>,\r\n <mailto:([^>?]+)\?subject=unsubscribe>\r\n", raw)
        assert header is not None
        assert read_leave_address(header[2], KEYRING) == DELIVERY
        assert read_leave_address(header[2].upper(), KEYRING) == DELIVERY
        # It is no address that undeliverable mail comes back to.
        assert read_return_address(header[2], KEYRING) is None
        assert raw.count("/v/") == 2
    assert "mailto:leave" not in compose(Tracking(), None)


def test_a_copy_for_everybody_says_nothing_of_anybody_and_leads_nowhere_that_knows_them() -> None:
    snapshot = Snapshot(letterhead=LETTERHEAD, fields=FIELDS, renderer=NEWEST_RENDERER)
    composer = Composer(snapshot=snapshot, content=CONTENT, run_id=RUN, tokens=SignedTokens(KEYRING, 1))
    html = composer.for_everybody(NOW)
    assert "127.0.0.1" not in html
    assert "Leave this list" not in html
    assert "You get this" not in html
    assert 'href="https://skarnmuseum.example/card?no="' in html


def test_what_is_not_noted_is_said_before_a_release() -> None:
    assert tracking_words(Tracking()) == ""
    told = tracking_words(Tracking(opens=Tracked.COUNTED, clicks=Tracked.OFF))
    assert told == " Opens are counted, but not by whom and clicks are not noted."


def fetch(seconds: float, link: int | None, *beside: Beside, unseen: bool = False) -> Fetch:
    at = NOW + timedelta(seconds=seconds)
    return Fetch(method="GET", agent="Firefox", at=at, accepted_at=NOW, link=link, unseen=unseen, beside=beside)


def at(seconds: float, link: int | None, *, unseen: bool = False) -> Beside:
    return Beside(link=link, at=NOW + timedelta(seconds=seconds), unseen=unseen)


@given(st.lists(st.tuples(st.integers(60, 90), st.integers(0, 4)), min_size=1, max_size=8))
def test_a_burst_is_one_in_whatever_order_its_fetches_come(clicks: list[tuple[int, int]]) -> None:
    """Held against the plain meaning: some three seconds with the fetch in them hold three links or more."""
    seen = [at(*one) for one in clicks]
    for seconds, link in clicks:
        told = machine_reason(fetch(seconds, link, *reversed(seen)))
        windows = [
            {other for moment, other in clicks if begin <= moment <= begin + 3}
            for begin in range(seconds - 3, seconds + 1)
        ]
        assert (told == "burst") is (max(map(len, windows)) >= BURST_LINKS)
        assert told == machine_reason(fetch(seconds, link, *seen))


@pytest.mark.parametrize("order", list(permutations(range(3))))
def test_whoever_follows_what_nobody_sees_is_a_machine_in_all_that_it_does_then(order: tuple[int, ...]) -> None:
    together = [at(60, None), at(80, 0), at(85, None, unseen=True)]
    beside = [together[place] for place in order]
    assert machine_reason(fetch(60, None, *beside)) == "with_unseen"
    assert machine_reason(fetch(80, 0, *beside)) == "with_unseen"
    assert machine_reason(fetch(85, None, *beside, unseen=True)) == "unseen"
    # Somebody who reads it an hour later is a person all the same.
    assert machine_reason(fetch(3_600, 0, *beside)) is None
