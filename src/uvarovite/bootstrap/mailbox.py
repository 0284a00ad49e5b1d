"""The reader of a mailbox: it looks again and again, and comes back after whatever breaks."""

import threading
from collections.abc import Callable
from contextlib import suppress
from datetime import datetime

import structlog

from uvarovite.net.mailbox import Mailbox, MailboxAccess, MailboxLost
from uvarovite.services.responses.mailbox import FIRST_LOOK, LyingMail, note_look, read_up_to, take_from_mailbox
from uvarovite.store.database import Database, DatabaseLost

log = structlog.get_logger()

POLL_SECONDS = 60.0
# So many messages, or bytes, are kept in one transaction.
_MOST_AT_ONCE, _MOST_BYTES_AT_ONCE = 20, 5_000_000
# After a break it is tried again so much later, each time for longer.
_AGAIN_SECONDS = (1.0, 5.0, 15.0, 60.0, 300.0)


class MailboxReader:
    """Takes in what lies in a mailbox, in a thread of its own."""

    def __init__(self, access: MailboxAccess, database: Database, clock: Callable[[], datetime]) -> None:
        self._access = access
        self._database = database
        self._clock = clock
        self._breaks = 0
        self.stop = threading.Event()

    def run(self) -> None:
        """Read until stopped."""
        while not self.stop.is_set():
            try:
                self._stay()
            except (MailboxLost, DatabaseLost) as fault:
                self._break(fault)

    def _break(self, fault: Exception) -> None:
        again = _AGAIN_SECONDS[min(self._breaks, len(_AGAIN_SECONDS) - 1)]
        self._breaks += 1
        log.warning("a mailbox could not be read", mailbox=self._access.name, fault=str(fault), again_seconds=again)
        if isinstance(fault, MailboxLost):
            with suppress(DatabaseLost):
                note_look(self._database, self._access.name, at=None, trouble=str(fault))
        self.stop.wait(again)

    def _stay(self) -> None:
        """One connection: look, wait for news, look again."""
        mailbox = Mailbox(self._access)
        try:
            while not self.stop.is_set():
                self.look(mailbox)
                self._breaks = 0
                mailbox.wait(POLL_SECONDS, self.stop.is_set)
                if not mailbox.can_wait:
                    self.stop.wait(POLL_SECONDS)
        finally:
            mailbox.close()

    def look(self, mailbox: Mailbox) -> int:
        """Take in what came since the last look, some at a time; how many. They are marked once they are kept."""
        last = read_up_to(self._database, self._access.name, mailbox.uid_validity)
        taken, size = 0, 0
        held: list[LyingMail] = []
        for uid in mailbox.uids_after(last, (self._clock() - FIRST_LOOK).date()):
            if self.stop.is_set():
                return taken
            mail = mailbox.fetch(uid)
            received_at = min(mail.received_at, self._clock()) if mail else self._clock()
            held.append(LyingMail(uid=uid, raw=mail.raw if mail else None, received_at=received_at))
            size += len(mail.raw) if mail else 0
            if len(held) >= _MOST_AT_ONCE or size >= _MOST_BYTES_AT_ONCE:
                taken += self._keep(mailbox, held)
                held, size = [], 0
        taken += self._keep(mailbox, held)
        note_look(self._database, self._access.name, at=self._clock(), trouble=None)
        return taken

    def _keep(self, mailbox: Mailbox, held: list[LyingMail]) -> int:
        taken = take_from_mailbox(self._database, self._access.name, mailbox.uid_validity, held)
        there = [one.uid for one in held if one.raw is not None]
        if there:
            mailbox.mark(there)
        return taken
