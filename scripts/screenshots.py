"""Make docs/screenshots anew from the demo's data: one picture of each main view, at 1280 x 800.

A demo of its own is started in a temporary directory, on free ports.
"""

import os
import re
import signal
import smtplib
import socket
import subprocess
import sys
import tempfile
import time
from email.headerregistry import Address
from email.message import EmailMessage
from pathlib import Path

from playwright.sync_api import Page, ViewportSize, expect, sync_playwright

from uvarovite.demo.story import USERS

ROOT = Path(__file__).parents[1]
PLACE = ROOT / "docs" / "screenshots"
FLAGS = [
    "--disable-gpu", "--disable-quic", "--disable-background-networking", "--disable-component-update",
    "--disable-sync", "--no-first-run", *(["--no-sandbox"] if os.geteuid() == 0 else []),
]  # fmt: skip
SCREEN, PHONE = ViewportSize(width=1280, height=800), ViewportSize(width=390, height=844)
LETTERS = (
    "My new address is 12 Weir Lane, SK1 4CD Skarn; please change it in your files.",
    "Je viens avec deux enfants, est-ce possible ?",
    "Is the Copper Adit open to a wheelchair?",
    "Dear Signe,\n\ncould you keep a third place on the Scree Path? My sister is coming from Port Andesite and would love the lamp walk too.",
)

FILE = """E-mail address,First name,Last name,Membership,Pledge,Renews on,Town
ottoline@slatepost.example,Ottoline,Harkness,Patron,900.00,2027-01-31,Skarn
piotr@quartzmail.example,Piotr,Źródłowski,Friend,30.00,2027-02-28,Skellbeck
no address at all,Pip,Garth,Friend,30.00,2027-03-31,Skarn
quinn@slatepost.example; q@tinmail.example,Quinn,Cragg,Friend,30.00,2027-03-31,Skarn
rosa@fjordnet.example,Rosa,Lowick,Emperor,30.00,2027-03-31,Skarn
x.2@slatepost.example,X,Æ,Fellow,120.00,2027-05-31,Port Andesite
"""


def free_port() -> int:
    """A port that nobody listens on at the moment."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def take(page: Page, name: str) -> None:
    """One picture, once nothing moves any more."""
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=str(PLACE / f"{name}.png"), animations="disabled")


def sign_in(page: Page, web: str) -> None:
    email, _, password, _ = USERS[0]
    page.goto(f"{web}/sign-in")
    page.get_by_label("E-mail address").fill(email)
    page.get_by_role("textbox", name="Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("heading", name="Desk")).to_be_visible()


def still_views(page: Page, web: str) -> None:
    """What can be seen before anything is released."""
    page.goto(f"{web}/contacts?view=1&criteria=renews_on+within+next+60+days&sort=renews_on")
    rows = page.get_by_role("grid", name="Contacts").get_by_role("row")
    rows.nth(3).get_by_role("checkbox").click()
    rows.nth(6).get_by_role("checkbox").click(modifiers=["Shift"])
    take(page, "contacts")
    page.goto(f"{web}/contacts?search=thwaite")
    page.get_by_role("grid", name="Contacts").get_by_role("row").nth(2).click()
    panel = page.get_by_role("complementary", name="Person")
    panel.locator("label").filter(has_text="Consent").click()
    expect(panel).to_contain_text("As recorded")
    take(page, "person")

    page.goto(f"{web}/contacts/import")
    with tempfile.TemporaryDirectory() as directory:
        file = Path(directory) / "open day.csv"
        file.write_text(FILE)
        page.get_by_label("Contact file").set_input_files(file)
        page.get_by_label("Topic").select_option(label="Field walks")
        page.get_by_label("How did they agree?").fill("Signed the list at the open day, 14 November 2026")
        expect(page.get_by_text("will be opted in")).to_be_visible()
        take(page, "import")

    page.goto(f"{web}/audiences/1")
    expect(page.get_by_role("region", name="Examples")).to_contain_text("Just outside")
    take(page, "audience")

    page.goto(f"{web}/messages/1")
    for _ in range(3):
        page.get_by_role("button", name="Next person", exact=True).click()
        page.wait_for_load_state("networkidle")
    page.locator("label").filter(has_text="Telephone").click()
    page.evaluate("window.scrollTo(0, 0)")
    take(page, "message")
    page.goto(f"{web}/set-up/relays")
    page.get_by_role("button", name="Change Main relay").click()
    page.get_by_role("button", name="Save and try it").click()
    expect(page.get_by_text("The message went to your own address.")).to_be_visible()
    take(page, "set-up-relays")

    page.goto(f"{web}/campaigns/1?stop=who")
    expect(page.get_by_role("region", name="Clearance")).to_be_visible()
    take(page, "run-sheet-who")
    page.goto(f"{web}/campaigns/1?stop=proofs")
    expect(page.get_by_role("list", name="Proofs").get_by_role("button").first).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("navigation", name="Stops")).to_contain_text("1 of ")
    take(page, "run-sheet-proofs")
    page.goto(f"{web}/campaigns/1?stop=pace")
    expect(page.get_by_role("heading", name=re.compile("If released now"))).to_be_visible()
    take(page, "run-sheet-pace")
    page.goto(f"{web}/campaigns/1?stop=release")
    expect(page.get_by_role("button", name="Release to")).to_be_enabled()
    take(page, "run-sheet-release")
    page.goto(f"{web}/campaigns/1?stop=paper")
    expect(page.get_by_role("region", name="Clearance")).to_be_visible()
    take(page, "run-sheet-paper")


def moving_views(page: Page, web: str, inbox: str) -> None:
    """A run on its way, one person's trace, their inbox, and how they leave."""
    page.goto(f"{web}/campaigns/1?stop=release")
    page.get_by_role("button", name="Release to").click()
    page.get_by_role("button", name="Release now").click()
    expect(page.get_by_role("button", name=re.compile(r"^[1-9]\d* clicked"))).to_be_enabled(timeout=120_000)
    expect(page.get_by_text(re.compile(r"[3-9] of \d+ batches are through"))).to_be_visible(timeout=120_000)
    take(page, "dispatch")
    page.goto(f"{web}/")
    expect(page.get_by_text("of 423 accepted").or_(page.get_by_text("accepted")).first).to_be_visible()
    take(page, "desk")
    clicked = page.request.get(f"{web}/api/runs/1/deliveries?response=clicked").json()
    # A reader without a scanner in front of them has the shorter story.
    reader = next(one for one in clicked if "guildhall" not in one["address"])
    page.goto(f"{web}/campaigns/1?stop=dispatch&trace={reader['id']}")
    expect(page.get_by_text(re.compile("clicked link")).first).to_be_visible()
    take(page, "trace")
    page.goto(inbox)
    page.get_by_role("link").nth(4).click()
    take(page, "rehearsal-inbox")
    leave = page.frame_locator("iframe").locator('a[href*="/u/"]').get_attribute("href")
    assert leave
    page.set_viewport_size(PHONE)
    page.goto(f"{leave}/preferences")
    page.screenshot(path=str(PLACE / "preferences.png"), full_page=True)
    form = page.request.get(f"{web}/api/sign-up-forms").json()[0]
    page.goto(form["places"][0]["url"])
    page.screenshot(path=str(PLACE / "sign-up.png"), full_page=True)
    page.set_viewport_size(SCREEN)


def responses(page: Page, web: str, inbound: int) -> None:
    """What came back: a reply beside the message that it answers, and a run with its clicks."""
    readers = page.request.get(f"{web}/api/runs/1/deliveries?response=clicked").json()
    readers = [one for one in readers if "guildhall" not in one["address"]][: len(LETTERS)]
    for reader, words in zip(readers, LETTERS, strict=True):
        sent = page.request.get(f"{web}/api/deliveries/{reader['id']}/message").json()
        letter = EmailMessage()
        letter["From"] = Address(reader["name"], addr_spec=reader["address"])
        letter["To"], letter["Subject"] = "walks@skarnmuseum.example", f"Re: {sent['subject']}"
        letter["In-Reply-To"] = next(one["value"] for one in sent["headers"] if one["name"] == "Message-ID")
        letter.set_content(
            f"{words}\n\nOn Monday the museum wrote:\n> {sent['subject']}\n> two walks have places left\n"
        )
        with smtplib.SMTP("127.0.0.1", inbound, timeout=20) as line:
            line.send_message(letter)
    page.goto(f"{web}/responses")
    lines = page.get_by_label("Waiting for an answer").get_by_role("button")
    expect(lines.filter(has_text="third place")).to_be_visible(timeout=60_000)
    lines.filter(has_text="third place").click()
    expect(page.get_by_label("What it is about")).to_contain_text("replied")
    take(page, "responses")
    page.get_by_role("button", name=re.compile("run 1$")).click()
    expect(page.get_by_role("table", name="How far people went")).to_be_visible()
    expect(page.frame_locator("iframe").get_by_text("Choose a walk")).to_be_visible()
    take(page, "responses-run")


def main() -> int:
    """Start a demo, look at it, stop it."""
    PLACE.mkdir(parents=True, exist_ok=True)
    ports = {name: free_port() for name in ("WEB", "SMTP", "INBOX", "INBOUND", "NAMES", "DATABASE")}
    with tempfile.TemporaryDirectory() as directory:
        Path(directory).chmod(0o755)
        log = Path(directory) / "log"
        with log.open("wb") as file:
            demo = subprocess.Popen(
                [
                    sys.executable,
                    "-m",
                    "uvarovite.cli.main",
                    "demo",
                    "--directory",
                    f"{directory}/demo",
                    "--speed",
                    "200",
                ],
                env={**os.environ, **{f"UVAROVITE_{name}_PORT": str(port) for name, port in ports.items()}},
                stdout=file,
                stderr=file,
                start_new_session=True,
            )
        try:
            while "is ready" not in log.read_text():
                if demo.poll() is not None:
                    print(log.read_text())
                    return 1
                time.sleep(0.2)
            web, inbox = f"http://127.0.0.1:{ports['WEB']}", f"http://127.0.0.1:{ports['INBOX']}/"
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
                page = browser.new_page(viewport=SCREEN, locale="en-GB")
                sign_in(page, web)
                still_views(page, web)
                moving_views(page, web, inbox)
                responses(page, web, ports["INBOUND"])
                browser.close()
        finally:
            demo.send_signal(signal.SIGINT)
            demo.wait(timeout=60)
    return 0


if __name__ == "__main__":
    sys.exit(main())
