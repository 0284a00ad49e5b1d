"""What came back, in the browser: a reply is assigned, noted, answered and done; who left is seen with their trace."""

import re
import smtplib
from email import message_from_bytes, policy
from email.message import EmailMessage
from pathlib import Path

import pytest
from playwright.sync_api import Browser, expect

from tests.browser.signing_in import signed_in
from tests.support.processes import Installation, until
from uvarovite.bootstrap.ports import port_is_free
from uvarovite.store.database import Database, run_sql

WALKS = "walks@skarnmuseum.example"
ASKED = "Could you keep a third place on the Scree Path?"


def write(port: int, name: str, address: str, words: str) -> None:
    letter = EmailMessage()
    letter["From"], letter["To"], letter["Subject"] = f"{name} <{address}>", WALKS, "Re: two walks"
    letter["Message-ID"] = f"<{name.split()[0]}@slatepost.example>"
    letter.set_content(words)
    with smtplib.SMTP("127.0.0.1", port, timeout=20) as line:
        line.send_message(letter)


@pytest.fixture
def open_door(demo_web: Installation) -> int:
    """Everything runs, and mail is taken in; its port."""
    demo_web.start_rehearsal(speed=3_000)
    demo_web.start("receive")
    demo_web.start("worker")
    until(lambda: not port_is_free("127.0.0.1", demo_web.ports["inbound"]), "the listener")
    return demo_web.ports["inbound"]


def test_a_reply_is_assigned_noted_answered_and_done(
    browser: Browser, demo_web: Installation, open_door: int, database: Database, tmp_path: Path
) -> None:
    write(open_door, "Ottoline Harkness", "ottoline@slatepost.example", f"{ASKED}\n\nOttoline")
    write(open_door, "Piotr Wren", "piotr@slatepost.example", "<b>Is it open to a wheelchair?</b>")

    def waiting() -> int:
        with database.transaction() as tx:
            return int(run_sql(tx, "SELECT count(*) AS n FROM inbound_mail WHERE kind = 'reply'")[0].n)

    until(lambda: waiting() == 2, "the worker telling what they are")
    page = signed_in(browser, demo_web)
    page.goto(f"{demo_web.web_url}/responses")
    lines = page.get_by_label("Waiting for an answer").get_by_role("button")
    expect(lines).to_have_count(2)
    page.keyboard.press("j")
    expect(page.get_by_text("<b>Is it open to a wheelchair?</b>").last).to_be_visible()
    page.keyboard.press("j")
    expect(page.get_by_text(ASKED).last).to_be_visible()
    page.get_by_role("button", name="Assign…").click()
    page.get_by_role("menuitem", name="Tomas Brekke").click()
    expect(page.get_by_role("button", name="For Tomas Brekke")).to_be_visible()
    expect(lines.filter(has_text="Ottoline")).to_contain_text("Tomas")
    page.get_by_label("A note for colleagues").fill("Hugh has a place left.")
    page.get_by_role("button", name="Add note").dblclick()
    expect(page.get_by_text("Signe Vale: Hugh has a place left.")).to_have_count(1)
    # What is written stays, through a reload and other letters.
    page.get_by_label("A short answer").fill("Yes, gladly: three places.")
    page.reload()
    expect(page.get_by_label("A short answer")).to_have_value("Yes, gladly: three places.")
    page.get_by_role("button", name="Send", exact=True).dblclick()
    expect(page.get_by_text(re.compile("Sent to ottoline@slatepost.example.*It is marked as done"))).to_be_visible()
    expect(lines).to_have_count(1)
    # One message went, in the thread, with what it answers.
    files = list((tmp_path / "mailbox").rglob("*ottoline@slatepost.example.eml"))
    sent = [message_from_bytes(one.read_bytes(), policy=policy.default) for one in files]
    assert [(one["subject"], one["in-reply-to"]) for one in sent] == [("Re: two walks", "<Ottoline@slatepost.example>")]
    assert f"> {ASKED}" in sent[0].get_content()
    # Done by a key, and taken back.
    expect(page.get_by_text("Is it open to a wheelchair?").last).to_be_visible()
    page.keyboard.press("d")
    expect(page.get_by_text("Whoever writes back waits here until it is done.")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(lines).to_have_count(1)
    page.get_by_role("button", name=re.compile("^All replies")).click()
    expect(page.get_by_label("All replies").get_by_role("button")).to_have_count(2)
