"""Messages made of files, by the command alone: what the documentation shows works, and what is wrong is said."""

import json
import mailbox
import os
import re
import subprocess
import sys
from email import message_from_bytes, policy
from pathlib import Path
from typing import Any

import pytest

DOCUMENTED = (Path(__file__).parents[2] / "docs" / "languages" / "message.md").read_text(encoding="utf-8")
MESSAGE, RECORDS = (json.loads(found) for found in re.findall(r"```json\n(.*?)```", DOCUMENTED, re.DOTALL))


def render(place: Path, message: Any, records: Any, *more: str) -> subprocess.CompletedProcess[str]:
    for name, told in (("message.json", message), ("records.json", records)):
        (place / name).write_text(told if isinstance(told, str) else json.dumps(told), encoding="utf-8")
    bare = {key: value for key, value in os.environ.items() if not key.startswith("UVAROVITE_")}
    command = [
        sys.executable, "-m", "uvarovite.cli.main", "render", "message.json", "--records", "records.json", "--out", "out", *more
    ]  # fmt: skip
    return subprocess.run(command, cwd=place, env=bare, capture_output=True, text=True, check=False)


def texts(file: bytes) -> tuple[str, str]:
    mail = message_from_bytes(file, policy=policy.default)
    part = mail.get_body(("plain",))  # type: ignore[attr-defined]
    return str(mail["Subject"]), part.get_content()


def test_what_the_documentation_shows_is_made_without_a_database(tmp_path: Path) -> None:
    told = render(tmp_path, MESSAGE, RECORDS, "--json")
    assert (told.returncode, json.loads(told.stdout)) == (0, {"messages": 2, "problems": [], "out": "out"})
    ada, kim = (texts((tmp_path / "out" / f"{number:06}.eml").read_bytes()) for number in (1, 2))
    assert ada[0] == "Ada, two walks are still open"
    assert "Scree Path · €24.00" in ada[1]
    assert "Bring two guests." in ada[1]
    assert "Nothing is booked yet." in kim[1]


def test_proofs_are_the_few_records_that_show_all_that_differs(tmp_path: Path) -> None:
    told = render(tmp_path, MESSAGE, [RECORDS[1], *RECORDS * 20], "--proofs", "--json")
    result = json.loads(told.stdout)
    assert result["messages"] == len(result["proofs"]) == 2
    assert {one["record"] for one in result["proofs"]} == {1, 2}
    kinds = {shown["kind"] for proof in result["proofs"] for shown in proof["shows"]}
    assert {"branch", "fallback", "list_one"} <= kinds


def test_a_mailbox_holds_every_message_whatever_stands_at_the_beginning_of_a_line(tmp_path: Path) -> None:
    blocks = [{"kind": "paragraph", "text": "From here on:\nFrom @{first_name}"}]
    message = {**MESSAGE, "content": {**MESSAGE["content"], "blocks": blocks}}
    told = render(tmp_path, message, RECORDS, "--out", "all.mbox", "--locale", "de-AT")
    assert told.returncode == 0, told.stderr
    assert len(mailbox.mbox(tmp_path / "all.mbox")) == 2


@pytest.mark.parametrize(
    ("message", "records", "more", "said"),
    [
        ("{", RECORDS, (), "the file: "),
        ({**MESSAGE, "format": "another"}, RECORDS, (), "format: "),
        ({**MESSAGE, "organisation": {"name": "M", "time_zone": "Mars/Base"}}, RECORDS, (), "is no time zone"),
        ({**MESSAGE, "sender": {"name": "M", "address": "nobody"}}, RECORDS, (), "is no e-mail address"),
        ({**MESSAGE, "fields": [{"key": "if", "label": "If", "type": "text"}]}, RECORDS, (), "is a word of the criteria"),
        ({**MESSAGE, "fields": []}, [], (), "blocks.2.arms.0.criteria, line 1, column 1: There is no field “membership”"),
        (MESSAGE, "[1]", (), "no JSON array of objects"),
        (MESSAGE, [{"first_name": "Ada"}], (), "record 1: it has no e-mail address"),
        (MESSAGE, [{"address": "a@b.example", "shoe": 1}], (), "record 1: there is no field “shoe”"),
        (MESSAGE, [{"address": "a@b.example", "walk_bookings": [{"price": "1"}]}], (), "record 1: a value does not fit"),
        (MESSAGE, [{"address": "a@b.example", "walk_bookings": [{}] * 5_000}], (), "5,000 records; at most 200"),
        (MESSAGE, RECORDS, ("--locale", "nowhere"), "is no locale"),
        (MESSAGE, RECORDS, ("--records", "none.json"), "none.json cannot be read"),
        (MESSAGE, RECORDS, ("--out", "message.json"), "message.json cannot be written"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_is_said_and_nothing_is_made(
    tmp_path: Path, message: Any, records: Any, more: tuple[str, ...], said: str
) -> None:
    told = render(tmp_path, message, records, *more)
    assert told.returncode == 2, told
    assert said in told.stderr
    assert not (tmp_path / "out").exists()
