"""The two directions of a conversation: what is to be written, and who waits for which reply."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass

from uvarovite.core.delivery.answers import Meaning, as_kept
from uvarovite.core.delivery.smtp.replies import Reply
from uvarovite.core.delivery.troubles import RelayTrouble, relay_trouble


class Ended(Exception):
    """The conversation comes to nothing from here on: why, and what that means for messages in hand."""

    def __init__(self, trouble: RelayTrouble | None, meaning: Meaning = Meaning.BROKE_BEFORE) -> None:
        self.trouble = trouble
        self.meaning = meaning
        super().__init__(trouble.message if trouble else "left")


@dataclass(frozen=True, slots=True)
class Said:
    """One line of the wire, with secrets masked; `ours`: we said it."""

    ours: bool
    words: str


class Wire:
    """`where` names the relay in words; `said` holds what was said, where that is to be kept."""

    def __init__(self, where: str, *, keep: bool) -> None:
        self.where = where
        self.said: list[Said] | None = [] if keep else None
        # What to do with each reply that is still to come, in order.
        self.awaited: deque[Callable[[Reply], None]] = deque()
        self.out: list[bytes] = []

    def write(self, command: bytes, then: Callable[[Reply], None], shown: str | None = None) -> None:
        """Say something, and wait for the reply."""
        self.out.append(command)
        self.awaited.append(then)
        if self.said is not None:
            self.note(shown or command.decode().rstrip(), ours=True)

    def note(self, words: str, *, ours: bool) -> None:
        """Keep what was said, if that is wanted."""
        if self.said is not None:
            self.said.extend(Said(ours, as_kept(line)) for line in words.split("\n"))

    def note_reply(self, reply: Reply) -> None:
        """Keep a reply as it came."""
        last = len(reply.lines) - 1
        lines = (f"{reply.code}{' ' if place == last else '-'}{line}" for place, line in enumerate(reply.lines))
        self.note("\n".join(lines), ours=False)

    def clear(self) -> None:
        """Nothing more is said or waited for."""
        self.out.clear()
        self.awaited.clear()

    def nonsense(self, said: str) -> Ended:
        """The end, for what is no reply to what was said."""
        return Ended(relay_trouble("nonsense", where=self.where, said=said), Meaning.NO_ANSWER)

    def closed(self, reply: Reply) -> Ended:
        """The end, for a relay that says that it closes."""
        return Ended(relay_trouble("closed", where=self.where, said=reply.said))
