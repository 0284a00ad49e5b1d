"""Messages as they were sent, of every version of a snapshot that there ever was: the same bytes for good.

The files in `sent` are never made anew. A snapshot of another version, or another renderer, gets files of its own.
"""

import json
from datetime import date, datetime
from pathlib import Path
from typing import Any

import pytest

from uvarovite.core.messages import SNAPSHOT_FORM, Composer, Tracked
from uvarovite.core.messages.attachments import KeptFile
from uvarovite.core.messages.renderers import RENDERERS
from uvarovite.core.messages.snapshot import VERSION
from uvarovite.core.responses import derive_keyring
from uvarovite.services.messages.composing import SignedTokens

SENT = Path(__file__).parent / "sent"
RUNS = {file.stem: json.loads(file.read_text(encoding="utf-8")) for file in sorted(SENT.glob("*.json"))}
DELIVERIES = [(name, delivery) for name, run in RUNS.items() for delivery in run["deliveries"]]


def composer(name: str) -> Composer:
    run = RUNS[name]
    keyring = derive_keyring(run["secret"].encode())
    return Composer(
        snapshot=SNAPSHOT_FORM.read(run["snapshot"]),
        content=run["content"],
        run_id=run["run_id"],
        tokens=SignedTokens(keyring, keyring.current),
        files={
            digest: KeptFile(
                kind=one["kind"], name=one["name"], size=len(one["content"]), content=one["content"].encode("latin-1")
            )
            for digest, one in run.get("files", {}).items()
        },
        # What becomes a PDF stands here as it is laid out: how that is done is another program's.
        press=lambda page, style: f"{style}\n{page}".encode("utf-8", "replace"),
    )


@pytest.mark.parametrize(("name", "delivery"), DELIVERIES, ids=[f"{name} {one['name']}" for name, one in DELIVERIES])
def test_what_was_sent_is_made_again_byte_for_byte(name: str, delivery: dict[str, Any]) -> None:
    since = delivery["consent_since"]
    made = composer(name).compose(
        delivery_id=delivery["delivery_id"],
        address=delivery["address"],
        record_json=delivery["record"],
        consent_since=date.fromisoformat(since) if since else None,
        marked_at=datetime.fromisoformat(delivery["marked_at"]),
        wish=Tracked(delivery["wish"]) if "wish" in delivery else None,
    )
    assert made.raw == (SENT / f"{name}.{delivery['name']}.eml").read_bytes()


@pytest.mark.parametrize(("name", "delivery"), DELIVERIES, ids=[f"{name} {one['name']}" for name, one in DELIVERIES])
def test_a_link_leads_where_it_led(name: str, delivery: dict[str, Any]) -> None:
    made = composer(name)
    own = made.own_addresses(delivery["record"], datetime.fromisoformat(delivery["marked_at"]))
    assert [link.address or own.get(link.number) for link in made.links] == delivery["links"]


def test_there_is_a_message_of_every_snapshot_and_every_renderer() -> None:
    snapshots = [run["snapshot"] for run in RUNS.values()]
    assert {one["version"] for one in snapshots} == set(range(1, VERSION + 1))
    assert {SNAPSHOT_FORM.read(one).renderer for one in snapshots} == set(RENDERERS)


def test_a_snapshot_is_read_as_it_was_written() -> None:
    # The words of other messages in it have a form of their own, which this run has in its newest.
    newest = RUNS["version-6"]["snapshot"]
    assert newest["version"] == VERSION
    assert json.loads(json.dumps(SNAPSHOT_FORM.write(SNAPSHOT_FORM.read(newest)))) == newest
    with pytest.raises(KeyError):
        SNAPSHOT_FORM.read({**newest, "version": VERSION + 1})
