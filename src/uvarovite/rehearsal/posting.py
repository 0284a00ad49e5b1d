"""Mail of the simulated world to the application, by real SMTP."""

import asyncio
import smtplib
from collections.abc import Sequence

from uvarovite.rehearsal.account import Account

# A listener that is not there yet is tried again so often, every second.
_TRIES, _WAIT_SECONDS = 60, 1.0
# So many letters are on their way at once.
_AT_ONCE = 4


class Posting:
    """`send` hands a message to a port of this machine, and the account counts what it was under `what`."""

    def __init__(self, account: Account, host: str, port: int) -> None:
        self._account = account
        self._place = host, port
        self._room = asyncio.Semaphore(_AT_ONCE)

    async def send(self, what: str, sender: str, recipients: Sequence[str], raw: bytes) -> None:
        """Send until it is taken or refused; given up in the end where nobody listens."""
        for _ in range(_TRIES):
            try:
                async with self._room:
                    await asyncio.to_thread(self._hand_over, sender, recipients, raw)
                self._account.came_back[what] += 1
                return
            except (smtplib.SMTPResponseException, smtplib.SMTPRecipientsRefused):
                self._account.came_back["refused"] += 1
                return
            except (OSError, smtplib.SMTPException):
                await asyncio.sleep(_WAIT_SECONDS)

    def _hand_over(self, sender: str, recipients: Sequence[str], raw: bytes) -> None:
        with smtplib.SMTP(*self._place, timeout=20) as line:
            line.sendmail(sender, list(recipients), raw)
