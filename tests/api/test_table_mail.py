"""Ticked contacts to a colleague, through a real SMTP conversation."""

import asyncio
import csv
import email
import email.policy
import io
from email.message import EmailMessage
from typing import Any

import pytest
from python_calamine import CalamineWorkbook

from tests.support.museum import HASHER, NOW, Museum
from tests.support.relays import Script, relay
from tests.support.web import EMAIL, TestClock, sign_in, web_client
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.contacts.editing import change_value
from uvarovite.store.database import run_sql

COLUMNS = ["name", "address", "membership", "pledge"]


def post(museum: Museum, script: Script, **changed: Any) -> tuple[int, dict[str, Any], list[dict[str, Any]]]:
    """(status, answer, log) of sending Ada and Zoë."""
    who = {"ids": [museum.contact_id("M-01"), museum.contact_id("M-03")], "seen": 2}
    body = {"who": who, "columns": COLUMNS, "form": "csv", "to_address": "tomas@skarnmuseum.example", **changed}

    async def run() -> tuple[int, dict[str, Any], list[dict[str, Any]]]:
        async with relay(script) as port:
            with museum.database.transaction() as tx:
                run_sql(tx, "UPDATE relay SET port = :port, timeout_seconds = 2", {"port": port})

            def ask() -> tuple[int, dict[str, Any], list[dict[str, Any]]]:
                with web_client(museum.database, TestClock()) as client:
                    sign_in(client, museum.database)
                    answer = client.post("/api/bulk/mail", json=body)
                    return answer.status_code, answer.json(), client.get("/api/table-mails").json()

            return await asyncio.to_thread(ask)

    return asyncio.run(run())


def read(raw: bytes) -> tuple[EmailMessage, str, str, bytes]:
    """(message, text, HTML, attached file) as a mail program finds them."""
    mail = email.message_from_bytes(raw.removesuffix(b".\r\n"), policy=email.policy.default)
    assert isinstance(mail, EmailMessage)
    plain, styled = mail.get_body(("plain",)), mail.get_body(("html",))
    (attached,) = mail.iter_attachments()
    assert plain is not None
    assert styled is not None
    return mail, plain.get_content(), styled.get_content(), attached.get_payload(decode=True)  # type: ignore[return-value]


def test_the_ticked_go_as_a_table_and_as_a_file_and_it_is_logged(museum: Museum) -> None:
    # A name that is a formula to a spreadsheet and a tag to a browser.
    change_value(
        museum.database,
        SYSTEM,
        contact_id=museum.contact_id("M-01"),
        key="first_name",
        before="Ada",
        text="=1+<b>Ada</b>",
        hasher=HASHER,
        now=NOW,
    )
    script = Script()
    status, answer, log = post(museum, script, note="The two we spoke of.")
    assert (status, answer["accepted"]) == (200, True), answer
    mail, plain, styled, attached = read(script.messages[0])
    assert mail["To"] == "tomas@skarnmuseum.example"
    assert mail["Reply-To"] == EMAIL
    assert "2 people" in mail["Subject"]
    assert "The two we spoke of." in plain
    assert "Name: Ζωή Καλλέργη" in plain
    assert "&lt;b&gt;Ada&lt;/b&gt;" in styled
    assert "<b>Ada" not in styled
    assert styled.count("<tr>") == 3
    rows = list(csv.reader(io.StringIO(attached.decode("utf-8-sig"))))
    assert rows[0] == ["Name", "E-mail address", "Membership", "Pledge"]
    assert rows[1] == ["'=1+<b>Ada</b> Thwaite-Gray", "ada@slatepost.example", "Patron", "750.50 EUR"]
    assert len(rows) == 3
    (line,) = log
    assert (line["by"], line["to_address"], line["contacts"], line["columns"], line["form"], line["accepted"]) == (
        "Signe Vale", "tomas@skarnmuseum.example", 2, COLUMNS, "csv", True,
    )  # fmt: skip


def test_a_workbook_holds_the_same_and_all_that_match_can_go(museum: Museum) -> None:
    script = Script()
    who = {"search": "", "criteria": 'town is "Skarn"', "seen": 8}
    status, answer, log = post(museum, script, who=who, form="xlsx")
    assert (status, answer["accepted"], log[0]["contacts"]) == (200, True, 8), answer
    attached = read(script.messages[0])[3]
    sheet = CalamineWorkbook.from_filelike(io.BytesIO(attached)).get_sheet_by_index(0).to_python()
    assert len(sheet) == 9
    assert sorted(row[0] for row in sheet[1:])[0] == "Ada Thwaite-Gray"


@pytest.mark.parametrize(
    ("changed", "code", "words"),
    [
        ({"who": {"ids": [], "seen": 0}}, "nobody", "Nobody is ticked"),
        ({"to_address": "tomas"}, "no_at", "@"),
        ({"columns": []}, "form", "at least one column"),
        ({"columns": ["shoe_size"]}, "columns", "shoe_size"),
        ({"form": "pdf"}, "form", "CSV or XLSX"),
        ({"who": {"search": "", "criteria": "", "seen": 3}}, "moved", "You saw 3 people; now there are"),
    ],
)
def test_what_cannot_be_sent_is_said_and_not_sent(
    museum: Museum, changed: dict[str, Any], code: str, words: str
) -> None:
    script = Script()
    status, answer, log = post(museum, script, **changed)
    assert status in (409, 422)
    assert words in answer["detail"], answer
    assert (script.connections, log) == (0, [])


def test_a_relay_that_does_not_take_it_is_quoted_and_logged(museum: Museum) -> None:
    status, answer, log = post(museum, Script(replies={"RCPT": "550 5.7.1 Not from here"}))
    assert (status, answer["accepted"]) == (200, False)
    assert "5.7.1 Not from here" in answer["words"]
    assert log[0]["accepted"] is False
