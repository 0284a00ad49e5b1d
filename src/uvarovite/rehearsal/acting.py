"""Simulated people at work: they fetch the pixel, follow links and leave by HTTP, and write back by SMTP, as anybody would.

Only links to this machine are followed: nobody outside is ever reached.
"""

import asyncio
import re
from email.message import EmailMessage
from email.utils import parseaddr
from urllib.parse import urlsplit

import httpx

from uvarovite.rehearsal.letters import away_note, leave_by_address, leave_by_mail, reply_to
from uvarovite.rehearsal.mailbox import Captured
from uvarovite.rehearsal.people import Act, acts_for, confirms
from uvarovite.rehearsal.posting import Posting
from uvarovite.rehearsal.providers import draw
from uvarovite.rehearsal.world import World

BROWSER = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"
SCANNER = "LinkScan/3.1 (guildhall.example mail gateway)"


class People:
    """`arrive` plans what becomes of a message; `run` does it in time."""

    def __init__(self, world: World, posting: Posting) -> None:
        self._world = world
        self._posting = posting
        self._arrived: asyncio.Queue[tuple[str, Captured]] = asyncio.Queue()

    def arrive(self, sender: str, captured: Captured) -> None:
        """A message has come in, from the sender of its envelope."""
        self._arrived.put_nowait((sender, captured))

    async def run(self) -> None:
        """Act until cancelled."""
        limits = httpx.Limits(max_connections=8)
        async with (
            httpx.AsyncClient(limits=limits, timeout=30, follow_redirects=False) as http,
            asyncio.TaskGroup() as tasks,
        ):
            while True:
                sender, captured = await self._arrived.get()
                for act, doors in self._plan(captured):
                    if act.what in _WRITERS:
                        tasks.create_task(self._write(act, sender, captured))
                    else:
                        tasks.create_task(self._do(http, act, doors))

    def _plan(self, captured: Captured) -> list[tuple[Act, "_Doors"]]:
        mail = captured.parsed()
        if "List-Unsubscribe" not in mail:
            return self._answer_to_ask(captured, mail)
        doors = _Doors(mail.get_body(("html",)), str(mail["List-Unsubscribe"]))
        acts = acts_for(
            self._world.seed,
            self._world.scenario.provider_of(captured.recipient),
            captured.recipient,
            str(mail["Message-ID"]),
            len(doors.links),
            self._world.speed,
        )
        return [(act, doors) for act in acts]

    def _answer_to_ask(self, captured: Captured, mail: EmailMessage) -> list[tuple[Act, "_Doors"]]:
        """What becomes of a mail that asks whether somebody meant to sign up."""
        doors = _Doors(mail.get_body(("html",)), "")
        acts = confirms(self._world.seed, captured.recipient, self._world.speed)
        return [(act, doors) for act in acts if doors.confirm]

    async def _do(self, http: httpx.AsyncClient, act: Act, doors: "_Doors") -> None:
        await asyncio.sleep(act.after_seconds)
        try:
            await _act(http, act, doors)
        except httpx.HTTPError:
            # A server that is not there is what people meet now and then; they do not try again.
            return

    async def _write(self, act: Act, sender: str, captured: Captured) -> None:
        await asyncio.sleep(act.after_seconds)
        mail = captured.parsed()
        named = _MAILTO.search(str(mail["List-Unsubscribe"]))
        # Some press their mail program's button, others answer.
        if act.what == "leave_by_mail" and named and draw(self._world.seed, "button", captured.recipient) < 0.5:
            raw = leave_by_address(mail, named[1], named[2])
            await self._posting.send(act.what, captured.recipient, [named[1]], raw)
            return
        raw = _WRITERS[act.what](mail, self._world.seed)
        # A machine's note goes to the sender of the envelope, from nobody (RFC 3834, section 3.3 and 4).
        written_to = str(mail["Reply-To"] or mail["From"])
        is_note = act.what == "away"
        to = sender if is_note else parseaddr(written_to)[1]
        await self._posting.send(act.what, "" if is_note else captured.recipient, [to], raw)


_MAILTO = re.compile(r"<mailto:([^?>]+)\?subject=([^>&]+)>")
_WRITERS = {"reply": reply_to, "leave_by_mail": leave_by_mail, "away": away_note}


async def _act(http: httpx.AsyncClient, act: Act, doors: "_Doors") -> None:
    browser = {"User-Agent": BROWSER}
    match act.what:
        case "open" if doors.pixel:
            await http.get(doors.pixel, headers=browser)
        case "click" if doors.links:
            await http.get(doors.links[act.link % len(doors.links)], headers=browser)
        case "scan":
            for link in doors.all_links:
                await http.head(link, headers={"User-Agent": SCANNER})
                await http.get(link, headers={"User-Agent": SCANNER})
        case "confirm" if doors.confirm:
            await http.get(doors.confirm, headers=browser)
            await http.post(doors.confirm, data={"confirm": "yes"}, headers=browser)
        case "leave" if doors.unsubscribe and act.one_click:
            form = {"List-Unsubscribe": "One-Click"}
            await http.post(doors.unsubscribe, data=form, headers={"User-Agent": "MailApp/7"})
        case "leave" if doors.unsubscribe:
            await http.get(doors.unsubscribe, headers=browser)
            await http.post(doors.unsubscribe, data={"leave": "yes"}, headers=browser)
        case _:
            return


class _Doors:
    """The ways from a message back to where it came from."""

    def __init__(self, html: object, list_unsubscribe: str) -> None:
        text = html.get_content() if html is not None and hasattr(html, "get_content") else ""
        anchors = [
            (link.replace("&amp;", "&"), told) for told, link in re.findall(r'<a ([^>]*href="([^"]+)"[^>]*)>', text)
        ]
        links = [link for link, _ in anchors]
        pixels = re.findall(r'<img [^>]*src="([^"]+)"', text)
        header = re.search(r"<(https?://[^>]+)>", list_unsubscribe)
        self.unsubscribe = next(filter(_here, [header[1]] if header else []), None)
        self.confirm = next((link for link in filter(_here, links) if _path(link).startswith("/c/")), None)
        self.all_links = [link for link in links if _here(link) and link != self.unsubscribe]
        # What people follow: they see no link that cannot be reached by a key.
        self.links = [
            link for link, told in anchors if 'tabindex="-1"' not in told and _here(link) and _path(link)[:3] == "/r/"
        ]
        self.pixel = next(filter(_here, pixels), None)


def _path(link: str) -> str:
    return urlsplit(link).path


def _here(link: str) -> bool:
    return urlsplit(link).hostname in ("127.0.0.1", "localhost", "::1")
