"""Captured messages: files in a directory, so that a restart keeps them, with an index in memory."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from email import message_from_bytes, policy
from email.message import EmailMessage
from pathlib import Path

# The index stays small; older files stay on disk.
MOST_INDEXED = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Captured:
    """One message as it arrived. `received_at` is aware."""

    number: int
    recipient: str
    subject: str
    from_name: str
    received_at: datetime
    path: Path

    def raw(self) -> bytes:
        """Its bytes."""
        return self.path.read_bytes()

    def parsed(self) -> EmailMessage:
        """Its parts."""
        return message_from_bytes(self.raw(), policy=policy.default)


class Mailbox:
    """Everybody's inboxes."""

    def __init__(self, directory: Path) -> None:
        self._directory = directory
        directory.mkdir(parents=True, exist_ok=True)
        self._captured: list[Captured] = []
        for path in sorted(directory.glob("*.eml"))[-MOST_INDEXED:]:
            stamp, recipient = path.stem.split(" ", 2)[1:]
            at = datetime.fromisoformat(stamp.replace("_", ":"))
            self._captured.append(_entry(int(path.stem.split(" ", 1)[0]), recipient, at, path, path.read_bytes()))

    def add(self, recipient: str, raw: bytes, at: datetime) -> Captured:
        """Keep a message."""
        number = self._captured[-1].number + 1 if self._captured else 1
        safe = "".join(sign if sign.isalnum() or sign in "@.+-_" else "~" for sign in recipient)[:150]
        path = self._directory / f"{number:08d} {at.isoformat().replace(':', '_')} {safe}.eml"
        path.write_bytes(raw)
        captured = _entry(number, recipient, at, path, raw)
        self._captured.append(captured)
        del self._captured[:-MOST_INDEXED]
        return captured

    def latest(self, search: str, limit: int) -> Iterator[Captured]:
        """Messages by recipient or subject, latest first."""
        wanted = search.casefold()
        found = (one for one in reversed(self._captured) if wanted in f"{one.recipient} {one.subject}".casefold())
        for _, one in zip(range(limit), found, strict=False):
            yield one

    def get(self, number: int) -> Captured | None:
        """A message by its number."""
        return next((one for one in reversed(self._captured) if one.number == number), None)

    def __len__(self) -> int:
        return len(self._captured)


def _entry(number: int, recipient: str, at: datetime, path: Path, raw: bytes) -> Captured:
    head = message_from_bytes(raw.split(b"\r\n\r\n", 1)[0] + b"\r\n\r\n", policy=policy.default)
    sender = head["From"]
    name = sender.addresses[0].display_name or sender.addresses[0].addr_spec if sender and sender.addresses else ""
    return Captured(
        number=number,
        recipient=recipient,
        subject=str(head["Subject"] or ""),
        from_name=name,
        received_at=at,
        path=path,
    )
