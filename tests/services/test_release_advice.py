"""Advice on a campaign beyond its words, and advice that somebody accepted by name."""

import pytest

from tests.support.acting import acting
from tests.support.museum import NOW, Museum
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages import MessageContent, Paragraph, Picture
from uvarovite.core.messages.look import Look
from uvarovite.services.accounts.audit import audit_page
from uvarovite.services.accounts.users import create_user
from uvarovite.services.campaigns.accepted_advice import accept_advice, take_back_acceptance
from uvarovite.services.campaigns.campaigns import CampaignChange, save_campaign
from uvarovite.services.campaigns.release_checks import Check
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.services.messages.looks import save_look
from uvarovite.services.messages.messages import save_message
from uvarovite.store.database import run_sql
from uvarovite.store.tables import KeptPicture


@pytest.fixture
def signe(museum: Museum) -> int:
    return create_user(
        museum.database, SYSTEM, email="signe@skarnmuseum.example", name="Signe", password="x" * 12, now=NOW
    )


def check(museum: Museum, code: str) -> Check | None:
    return next((one for one in museum.view().checks if one.code == code), None)


def say(museum: Museum, *blocks: Paragraph | Picture) -> None:
    with museum.database.transaction() as tx:
        revision = run_sql(tx, "SELECT revision FROM message WHERE id = :id", {"id": museum.message_id})[0].revision
    content = MessageContent(subject="Two walks", blocks=blocks)
    save_message(
        museum.database, SYSTEM, message_id=museum.message_id, name="Walks", content=content, revision=revision, now=NOW
    )


def test_advice_is_accepted_by_name_and_stands_again_when_it_says_something_else(museum: Museum, signe: int) -> None:
    say(museum, Paragraph(text="Dear friend, come to www."), Paragraph(text="Dear friend, {{name}} and more."))
    found = check(museum, "brace_left")
    assert found is not None
    with pytest.raises(BadInput, match="why it is right"):
        accept_advice(museum.database, acting(signe), museum.campaign_id, found.digest, reason="  ", now=NOW)
    accept_advice(museum.database, acting(signe), museum.campaign_id, found.digest, reason="It is  a riddle", now=NOW)
    accepted = check(museum, "brace_left")
    assert accepted is not None
    assert accepted.accepted is not None
    assert (accepted.accepted.by, accepted.accepted.reason) == ("Signe", "It is a riddle")
    assert "(“In block 2: “{{name}}” goes out" in audit_page(museum.database, SYSTEM, limit=1).lines[0].words
    # Other words elsewhere change nothing; another brace is another thing.
    say(museum, Paragraph(text="Dear friends, come."), Paragraph(text="Dear friend, {{name}} and more."))
    same = check(museum, "brace_left")
    assert same is not None
    assert same.accepted is not None
    say(museum, Paragraph(text="Dear friends, come."), Paragraph(text="Dear friend, {{first}} and more."))
    other = check(museum, "brace_left")
    assert other is not None
    assert other.accepted is None
    accept_advice(museum.database, SYSTEM, museum.campaign_id, other.digest, reason="So be it", now=NOW)
    take_back_acceptance(museum.database, SYSTEM, museum.campaign_id, other.digest)
    again = check(museum, "brace_left")
    assert again is not None
    assert again.accepted is None


def test_what_blocks_or_is_not_said_cannot_be_accepted(museum: Museum) -> None:
    museum.change(sender_id=None)
    blocking = check(museum, "no_sender")
    assert blocking is not None
    for digest in (blocking.digest, "0" * 32):
        with pytest.raises(NotFound):
            accept_advice(museum.database, SYSTEM, museum.campaign_id, digest, reason="It is so", now=NOW)
    assert check(museum, "no_sender") == blocking


def test_the_same_subject_as_last_time_is_told_to_another_campaign(museum: Museum) -> None:
    museum.release()
    assert check(museum, "same_subject") is None
    view = museum.view()
    change = CampaignChange(
        **{key: getattr(view, key) for key in CampaignChange.__dataclass_fields__ if key != "name"}, name="Again"
    )
    other = save_campaign(museum.database, SYSTEM, campaign_id=None, change=change, revision=None, now=NOW)
    [told] = [one for one in other.checks if one.code == "same_subject"]
    assert "“Walks” went out with the same subject on " in told.message
    say(museum, Paragraph(text="Another letter."))
    with museum.database.transaction() as tx:
        subject = run_sql(tx, "SELECT content->>'subject' FROM message_version ORDER BY id DESC LIMIT 1")[0][0]
    assert subject == "Two walks"
    save_again = save_campaign(
        museum.database, SYSTEM, campaign_id=other.id, change=change, revision=other.revision, now=NOW
    )
    assert "same_subject" not in [one.code for one in save_again.checks]


def test_who_it_seems_to_come_from_what_is_faint_and_what_is_heavy_is_told(museum: Museum) -> None:
    assert {"foreign_sender", "faint", "heavy_pictures"} & {one.code for one in museum.view().checks} == set()
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE sender SET name = 'Payments kiln-bank.example' RETURNING id")
        look = run_sql(tx, "SELECT look_revision FROM organisation")[0].look_revision
        tx.add(
            KeptPicture(
                digest="a" * 32, kind="png", name="slab", width=9, height=9, content=bytes(3 << 20), created_at=NOW
            )
        )
    save_look(museum.database, SYSTEM, Look(ink="#999999"), revision=look)
    say(museum, Paragraph(text="Come."), Picture(address=f"https://skarnmuseum.example/p/{'a' * 32}.png", alt="A slab"))
    told = {one.code: one.message for one in museum.view().checks}
    assert "speaks of kiln-bank.example" in told["foreign_sender"]
    assert "hard to read: " in told["faint"]
    assert "3.0 MB" in told["heavy_pictures"]
    assert all(not one.blocking for one in museum.view().checks if one.code in ("foreign_sender", "faint"))
