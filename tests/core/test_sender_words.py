"""Who a message comes from, as its reader sees it: names and addresses for replies with inlays."""

from dataclasses import replace
from email import message_from_bytes, policy

import pytest
from hypothesis import given

from tests.core.test_inlay import context, hostile
from tests.core.test_messages import CONTENT, ENVELOPE, FOOTER, LINKS
from tests.support.fields import FIELDS
from tests.support.records import ADA, NOBODY
from uvarovite.core.contacts import Record
from uvarovite.core.messages import Letterhead, LetterMaker
from uvarovite.core.messages.sender_words import SenderWords, reply_to_problem, sender_problem

LETTERHEAD = Letterhead(
    organisation="The Museum",
    postal_address="1 Slate Row",
    locale="en_GB",
    time_zone="Europe/London",
    list_domain="museum.example",
    topic_key="walks",
    topic_name="Walks",
    from_name='Signe Vale, for @{town else "the valley"}',
    from_address="walks@museum.example",
    reply_to='walks+@{contact_no else "none"}@museum.example',
    public_url="",
    key_id=1,
)


def told(record: Record, letterhead: Letterhead = LETTERHEAD) -> tuple[str, str | None, str]:
    """(name, address for replies, what @{sender.name} gives) for a person."""
    sender = SenderWords(letterhead, FIELDS)
    seen = sender.context(record, context().clock, "en")
    return sender.name(record, seen), sender.reply_to(record, seen), seen.provided["sender.name"]


def test_each_reader_sees_the_sender_with_what_is_theirs() -> None:
    ada = {**ADA, "town": "Skarn", "contact_no": "M-01"}
    assert told(ada) == ("Signe Vale, for Skarn", "walks+M-01@museum.example", "Signe Vale, for Skarn")
    assert told(NOBODY)[:2] == ("Signe Vale, for the valley", "walks+none@museum.example")
    plain = replace(LETTERHEAD, from_name="Signe Vale", reply_to=None)
    assert told(ada, plain) == ("Signe Vale", None, "Signe Vale")


@given(hostile, hostile)
def test_no_value_makes_a_header_or_another_address(town: str, number: str) -> None:
    record: Record = {**ADA, "town": town, "contact_no": number}
    name, reply_to, _ = told(record)
    envelope = ENVELOPE._replace(from_name=name, reply_to=reply_to)
    raw = LetterMaker(CONTENT, FIELDS).raw(record, context(), LINKS, FOOTER, envelope)
    mail = message_from_bytes(raw, policy=policy.default)
    assert mail.defects == []
    assert [one.addr_spec for one in mail["From"].addresses] == ["walks@museum.example"]
    assert mail["Bcc"] is None
    if reply_to is not None:
        assert [one.domain for one in mail["Reply-To"].addresses] == ["museum.example"]


@pytest.mark.parametrize(
    ("name", "problem"),
    [
        ("Signe Vale", None),
        ('Signe, for @{town else "all"}', None),
        ("Signe, for @{town}", "for whoever has none"),
        ('Signe, for @{twn else "all"}', "no field"),
        ('@{sender.name else "x"}', "Only fields"),
        ("Signe @{", "@{"),
    ],
)
def test_what_is_wrong_with_a_name_is_said(name: str, problem: str | None) -> None:
    found = sender_problem(name, FIELDS)
    assert (found is None) == (problem is None)
    assert (problem or "") in (found or "")


@pytest.mark.parametrize(
    ("address", "problem"),
    [
        ('walks+@{contact_no else "0"}@museum.example', None),
        ('walks@@{town else "museum"}.example', "domain of your own"),
        ('@{contact_no else "0"} walks@museum.example', "no address"),
        ("walks+@{contact_no}@museum.example", "for whoever has none"),
    ],
)
def test_an_address_for_replies_stays_at_the_senders_own_domain(address: str, problem: str | None) -> None:
    found = reply_to_problem(address, FIELDS)
    assert (found is None) == (problem is None)
    assert (problem or "") in (found or "")
