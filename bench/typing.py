"""What a keystroke costs in the editor with a message of 60 blocks, and of 6: script, by the trace of a real browser.

All script counts that runs between one keystroke and the next: the editor's own, what is said to the server, what comes
back from it.
"""

import json
import os
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import pairwise
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Page, sync_playwright

from uvarovite.demo.story import USERS

KEYSTROKES, PAUSE_MS = 60, 120
_SCRIPT = {
    "FunctionCall",
    "EvaluateScript",
    "RunMicrotasks",
    "v8.run",
    "TimerFire",
    "FireAnimationFrame",
    "EventDispatch",
}

_LAYOUT = {"Layout", "UpdateLayoutTree", "RecalculateStyles", "ParseHTML"}


def _ports() -> dict[str, str]:
    found = {}
    for name in ("WEB", "SMTP", "INBOX", "NAMES", "DATABASE"):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            found[f"UVAROVITE_{name}_PORT"] = str(probe.getsockname()[1])
    return found


@contextmanager
def _demo() -> Iterator[str]:
    """A demo of its own while it is needed; its address."""
    ports = _ports()
    with tempfile.TemporaryDirectory() as name:
        Path(name).chmod(0o755)
        demo = subprocess.Popen(
            [sys.executable, "-m", "uvarovite.cli.main", "demo", "--directory", f"{name}/demo", "--contacts", "300"],
            env={**os.environ, **ports}, stdout=subprocess.PIPE, text=True, start_new_session=True,
        )  # fmt: skip
        assert demo.stdout is not None
        try:
            assert any("is ready" in line for line in demo.stdout), "the demo did not start"
            yield f"http://127.0.0.1:{ports['UVAROVITE_WEB_PORT']}"
        finally:
            os.kill(demo.pid, signal.SIGINT)
            demo.communicate(timeout=60)


def _content(blocks: int) -> dict[str, Any]:
    words = 'Dear @{first_name else "friend"}, two walks are still open this autumn; boots and a lamp are all you need.'
    return {"subject": "Walks", "blocks": [{"kind": "paragraph", "text": words} for _ in range(blocks)]}


def _open(browser: Browser, web: str, blocks: int) -> Page:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    email, _, password, _ = USERS[0]
    session = page.request.post(f"{web}/api/session", data={"email": email, "password": password}).json()
    saved = page.request.post(
        f"{web}/api/messages",
        data={"name": f"{blocks} blocks", "content": _content(blocks)},
        headers={"X-Uvarovite-CSRF": session["csrf_token"]},
    ).json()
    page.goto(f"{web}/messages/{saved['id']}")
    page.locator(".ProseMirror p").nth(blocks // 2).click()
    page.wait_for_load_state("networkidle")
    return page


def _script(browser: Browser, page: Page) -> list[tuple[float, float]]:
    """Milliseconds of script for each keystroke: until it is on the screen, and until the next one is struck."""
    page.keyboard.type("now ", delay=PAUSE_MS)
    browser.start_tracing(page=page, categories=["devtools.timeline"])
    for sign in ("abcdefgh " * KEYSTROKES)[:KEYSTROKES]:
        page.keyboard.press("Space" if sign == " " else sign)
        page.wait_for_timeout(PAUSE_MS)
    events = json.loads(browser.stop_tracing())["traceEvents"]
    struck = [one for one in events if one.get("name") == "EventDispatch"]
    down, up = (
        sorted(one["ts"] for one in struck if one["args"]["data"]["type"] == kind) for kind in ("keydown", "keyup")
    )
    main = {(one["pid"], one["tid"]) for one in struck}

    def stretches(names: set[str]) -> list[tuple[int, int]]:
        return sorted(
            (one["ts"], one["ts"] + one.get("dur", 0))
            for one in events
            if one.get("ph") == "X" and (one["pid"], one["tid"]) in main and one["name"] in names
        )

    ran = stretches(_SCRIPT)
    # What script makes the browser lay out at once is layout, and no script.
    laid = [one for one in stretches(_LAYOUT) if any(at <= one[0] and one[1] <= until for at, until in ran)]

    def script(at: int, until: int) -> float:
        return (_together(ran, at, until) - _together(laid, at, until)) / 1_000

    return [(script(at, drawn), script(at, then)) for (at, then), drawn in zip(pairwise(down), up, strict=False)]


def _together(ran: list[tuple[int, int]], at: int, until: int) -> int:
    """How long any of some stretches of time goes on within two moments; those within others count once."""
    total, reached = 0, at
    for begins, ends in ran:
        begins, ends = max(begins, reached), min(ends, until)
        if ends > begins:
            total, reached = total + ends - begins, ends
    return total


def main() -> None:
    """Print the figures."""
    flags = ["--disable-gpu", *(["--no-sandbox"] if os.geteuid() == 0 else [])]
    with _demo() as web, sync_playwright() as playwright:
        for blocks in (6, 60):
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=flags)
            taken = _script(browser, _open(browser, web, blocks))
            own, whole = (statistics.median(column) for column in zip(*taken, strict=True))
            print(
                f"typing: with {blocks} blocks {own:.1f} ms of script until a keystroke is on the screen (16 are meant), "
                f"{whole:.1f} with all that follows: the letter beside it, the draft that is kept (median of {len(taken)})"
            )
            browser.close()
