"""The simulated world: the same for the same seed, each provider in its manner, people in believable shares."""

from collections import Counter
from datetime import UTC, datetime
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from uvarovite.rehearsal.mailbox import Mailbox
from uvarovite.rehearsal.people import CLICK_SHARE, OPEN_SHARE, SOONEST_SECONDS, acts_for
from uvarovite.rehearsal.providers import GREYLIST_SECONDS, OTHERS, PROVIDERS, RATE_WINDOW_SECONDS, draw
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.rehearsal.world import World


@given(st.integers(), st.text(max_size=10), st.text(max_size=10))
def test_a_draw_depends_on_its_words_alone_and_lies_in_range(seed: int, first: str, second: str) -> None:
    drawn = draw(seed, first, second)
    assert 0 <= drawn < 1
    assert drawn == draw(seed, first, second)


def test_greylisting_ends_with_patience() -> None:
    world = World(seed=1, speed=10)
    asked = ("walks@museum.example", "ada@quartzmail.example")
    wait = GREYLIST_SECONDS / 10
    assert world.answer_recipient(*asked, now=0).startswith("451 4.7.1")
    assert world.answer_recipient(*asked, now=wait - 1).startswith("451 4.7.1")
    assert world.answer_recipient(*asked, now=wait + 1).startswith("250")
    assert world.answer_recipient("other@museum.example", asked[1], now=wait + 1).startswith("451")


def test_a_rate_limit_counts_a_sliding_window() -> None:
    world = World(seed=1)
    limit = PROVIDERS["copperbox.example"].per_window
    assert limit
    for number in range(limit):
        assert world.answer_recipient("w@m.example", f"p{number}@copperbox.example", now=1).startswith("250")
    assert world.answer_recipient("w@m.example", "late@copperbox.example", now=2).startswith("450 4.7.28")
    later = RATE_WINDOW_SECONDS + 2
    assert world.answer_recipient("w@m.example", "late@copperbox.example", now=later).startswith("250")


def test_the_same_few_people_are_unknown_each_time() -> None:
    answers = [World(seed=8040).answer_recipient("w@m.example", f"p{n}@fjordnet.example", now=n) for n in range(2_000)]
    unknown = sum(answer.startswith("550 5.1.1") for answer in answers)
    assert 40 < unknown < 120
    again = World(seed=8040).answer_recipient("w@m.example", "P7@FJORDNET.example", now=9_999)
    assert again[:3] == answers[7][:3]
    assert SCENARIOS["ordinary"].provider_of("somebody@elsewhere.example") is OTHERS


def test_people_open_click_and_leave_in_their_shares_and_never_sooner_than_anybody_reads() -> None:
    provider = PROVIDERS["slatepost.example"]
    counted: Counter[str] = Counter()
    for number in range(4_000):
        acts = acts_for(8040, provider, f"p{number}@slatepost.example", "m@x", 2, speed=600)
        counted.update(act.what for act in acts)
        # A machine that says that somebody is away answers at once; people read first.
        theirs = [act for act in acts if act.what != "away"]
        assert all(act.after_seconds >= SOONEST_SECONDS for act in theirs)
        opened = next((act.after_seconds for act in theirs if act.what == "open"), None)
        assert all(opened is not None and act.after_seconds > opened for act in theirs if act.what != "open")
        assert acts == acts_for(8040, provider, f"P{number}@slatepost.example", "m@x", 2, speed=600)
    assert abs(counted["open"] / 4_000 - OPEN_SHARE) < 0.03
    assert abs(counted["click"] / counted["open"] - CLICK_SHARE) < 0.04
    assert 60 < counted["leave"] < 200
    assert (40 < counted["reply"] < 130, 80 < counted["away"] < 160, 4 < counted["leave_by_mail"] < 40) == (True,) * 3
    assert counted["scan"] == 0
    assert acts_for(1, PROVIDERS["guildhall.example"], "a@guildhall.example", "m", 2, 1)[0].what == "scan"


def test_a_mailbox_keeps_its_messages_over_a_restart(tmp_path: Path) -> None:
    mailbox = Mailbox(tmp_path)
    at = datetime(2026, 11, 23, 9, 0, 1, tzinfo=UTC)
    for name in ("ada", "zoë/../x"):
        raw = f"From: Museum <w@m.example>\r\nSubject: Dear {name}\r\n\r\nwords\r\n".encode()
        mailbox.add(f"{name}@slatepost.example", raw, at)
    again = Mailbox(tmp_path)
    assert [one.number for one in again.latest("", 10)] == [2, 1]
    assert [one.recipient for one in again.latest("ADA", 10)] == ["ada@slatepost.example"]
    kept = again.get(1)
    assert kept is not None
    assert (kept.from_name, kept.subject, kept.received_at) == ("Museum", "Dear ada", at)
    assert all(path.parent == tmp_path for path in tmp_path.rglob("*.eml"))
    assert again.get(99) is None
