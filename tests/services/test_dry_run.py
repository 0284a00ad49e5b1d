"""A dry run: what would go out, as it would, with links that lead to nobody."""

import mailbox
import re
from dataclasses import replace
from email import message_from_bytes, policy
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.support.museum import KEYRING, NOW, PUBLIC_URL, SECRET, Museum
from tests.support.sending import claim, kit_of, mark
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages.mbox import mbox_entry
from uvarovite.core.responses import Purpose, read_token
from uvarovite.services.campaigns.dry_run import DryMessage, dry_run
from uvarovite.services.errors import BadInput, NotFound
from uvarovite.store.database import run_sql


def made(museum: Museum, most: int | None = None) -> list[DryMessage]:
    told = dry_run(
        museum.database, SYSTEM, museum.campaign_id, most=most, public_url=PUBLIC_URL, keyring=KEYRING, secret=SECRET, now=NOW
    )  # fmt: skip
    return list(told)


def plain(raw: bytes) -> dict[str, str]:
    """What a message says, without what is each one's own."""
    mail = message_from_bytes(raw, policy=policy.default)
    body = mail.get_body(("plain",))
    assert body is not None
    text = re.sub(r"http://\S+", "link", body.get_content())
    return {name: str(mail[name]) for name in ("From", "To", "Subject", "List-Id", "Date")} | {"text": text}


def test_it_is_what_a_release_sends_to_whom_it_sends(museum: Museum) -> None:
    dry = {message.address: plain(message.raw) for message in made(museum)}
    assert len(dry) == 5
    run_id = museum.release()
    kit = kit_of(museum, run_id)
    went = {}
    for token in ("a", "b", "c"):
        batch = claim(museum, token)
        assert batch is not None
        for delivery in mark(museum, batch, kit).marked:
            address, raw = kit.made(delivery)
            went[address] = plain(raw)
    assert dry == went


def test_its_links_lead_to_nobody_and_nothing_is_left_of_it(museum: Museum) -> None:
    museum.release()
    for message in made(replace(museum)):
        [token] = set(re.findall(rb"List-Unsubscribe: <http[^>]*/([^/>]+)>", message.raw))
        told = read_token(token.decode(), Purpose.UNSUBSCRIBE, KEYRING)
        assert told is not None
        with museum.database.transaction() as tx:
            assert not run_sql(tx, "SELECT 1 FROM delivery WHERE id = :id", {"id": told.delivery_id})
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM run")[0][0] == 1


def test_only_the_first_so_many_are_made(museum: Museum) -> None:
    assert [one.address for one in made(museum, 2)] == [one.address for one in made(museum)][:2]


def test_what_cannot_be_made_is_told_at_once(museum: Museum) -> None:
    with pytest.raises(NotFound):
        made(Museum(**{**{name: getattr(museum, name) for name in Museum.__slots__}, "campaign_id": 99}))
    museum.change(audience_id=None)
    with pytest.raises(BadInput, match="Choose an audience first"):
        made(museum)


lines = st.lists(st.sampled_from([b"From here on", b">From", b">>From me", b"Hello", b"", b"From "]), max_size=8)


@given(st.lists(lines, min_size=1, max_size=4))
def test_a_mail_program_reads_the_messages_of_a_file_as_they_were(
    tmp_path_factory: pytest.TempPathFactory, bodies: list[list[bytes]]
) -> None:
    file: Path = tmp_path_factory.mktemp("mbox") / "dry run.mbox"
    raws = [b"Subject: %d\r\n\r\n" % number + b"\r\n".join([*body, b"end"]) for number, body in enumerate(bodies)]
    file.write_bytes(b"".join(mbox_entry(raw, "walks@skarnmuseum.example", NOW) for raw in raws))
    read = [bytes(one) for one in mailbox.mbox(file)]
    unquoted = [re.sub(rb"^>(>*From )", rb"\1", one, flags=re.MULTILINE).rstrip(b"\n") for one in read]
    assert unquoted == [raw.replace(b"\r\n", b"\n") for raw in raws]
