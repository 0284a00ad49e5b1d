"""Files for letters: uploaded by those who write, kept once, handed out to be kept and never to be shown."""

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import NOW, Museum
from tests.support.web import sign_in
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.messages.attachments import AttachedFile, Attachment, CalendarEntry
from uvarovite.services.campaigns.release_checks import Check
from uvarovite.services.messages.messages import get_message, save_message
from uvarovite.store.database import run_sql

PDF = b"%PDF-1.7\n" + b"plan " * 1_000


@pytest.fixture
def client(client: TestClient, museum: Museum) -> TestClient:
    sign_in(client, museum.database)
    return client


def upload(client: TestClient, name: str, data: bytes) -> dict[str, object]:
    # What the browser says of the type is not asked.
    answer = client.post("/api/attachments", files={"file": (name, data, "text/html")})
    told: dict[str, object] = answer.json()
    return {**told, "status": answer.status_code}


def attach(museum: Museum, *attachments: Attachment) -> list[Check]:
    """The checks of the campaign once these go with its message."""
    view = get_message(museum.database, SYSTEM, museum.message_id)
    save_message(
        museum.database,
        SYSTEM,
        message_id=museum.message_id,
        name=view.name,
        content=view.content.model_copy(update={"attachments": attachments}),
        revision=view.revision,
        now=NOW,
    )
    codes = ("file_gone", "files_heavy", "relay_takes_less", "entry_left_out", "entry_past", "words")
    return [one for one in museum.view().checks if one.code in codes]


def test_a_file_is_kept_once_and_told_under_the_name_that_it_came_with(client: TestClient) -> None:
    first, again = upload(client, "C:\\plans\\Walks.pdf", PDF), upload(client, "Plan.pdf", PDF)
    assert (first["status"], first["name"], again["name"], first["size"]) == (200, "Walks.pdf", "Plan.pdf", len(PDF))
    assert first["file"] == again["file"]
    assert [one["name"] for one in client.get("/api/attachments").json()] == ["Walks.pdf"]
    answer = client.get(f"/api/attachments/{first['file']}")
    assert (answer.content, answer.headers["content-type"]) == (PDF, "application/pdf")
    assert answer.headers["content-disposition"] == "attachment; filename*=utf-8''Walks.pdf"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert client.get("/api/attachments/abc").status_code == 404
    client.cookies.clear()
    assert client.get(f"/api/attachments/{first['file']}").status_code == 401


@pytest.mark.parametrize(
    ("name", "data", "detail"),
    [
        ("run.exe", b"MZ", "Files of the kind “exe” are not taken"),
        ("plan.pdf", b"<script>alert(1)</script>", "it holds something else"),
        ("plan.pdf", b"%PDF-" + bytes(6 << 20), "larger than 5 MB"),
    ],
)
def test_what_no_mail_program_opens_is_refused_with_a_word(
    client: TestClient, name: str, data: bytes, detail: str
) -> None:
    told = upload(client, name, data)
    assert told["status"] in (413, 422)
    assert detail in str(told["detail"])
    assert client.get("/api/attachments").json() == []


def test_what_is_attached_is_checked_before_a_release(client: TestClient, museum: Museum) -> None:
    plan = str(upload(client, "plan.pdf", PDF)["file"])
    assert attach(museum, AttachedFile(file=plan), CalendarEntry(title="Walk", day="2027-03-14")) == []
    [gone] = attach(museum, AttachedFile(file="0" * 64))
    assert (gone.code, gone.blocking) == ("file_gone", True)
    large = str(upload(client, "large.pdf", b"%PDF-" + bytes(4 << 20))["file"])
    [heavy] = attach(museum, AttachedFile(file=large), AttachedFile(file=large, name="The same again"))
    assert (heavy.code, heavy.blocking) == ("files_heavy", True)
    assert "has 8.0 MB together, and at most 7 MB" in heavy.message
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET largest_bytes = 2000000 RETURNING id")
    [too_much] = attach(museum, AttachedFile(file=large))
    assert (too_much.code, too_much.blocking) == ("relay_takes_less", True)
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE contact SET own = own - 'renews_on' WHERE contact_no = 'M-05' RETURNING id")
    past, left_out = sorted(
        attach(museum, CalendarEntry(title="Walk", day="2020-01-01"), CalendarEntry(title="Renewal", day="renews_on")),
        key=lambda one: one.code,
        reverse=True,
    )
    assert (past.blocking, past.message) == (
        False, "The entry for the calendar is on 1 January 2020, which is past.",
    )  # fmt: skip
    assert (left_out.code, left_out.blocking) == ("entry_left_out", False)
    assert left_out.message == "1 person has nothing in Renews on: no entry for the calendar goes with that message."
    [wrong] = attach(museum, CalendarEntry(title="Walk @{shoe}", day="2027-03-14"))
    assert wrong.blocking
    assert wrong.message.startswith("In attachment 1: ")
