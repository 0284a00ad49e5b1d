"""The simulated world's own account: what it took, and what it said, whatever anybody else believes."""

from collections import Counter, deque
from dataclasses import dataclass

# So many messages are told one by one; the sums go on.
MOST_TOLD = 200_000


@dataclass(frozen=True, slots=True)
class Taken:
    """A message that was taken: when, in seconds since 1970, for whom, and its Message-ID."""

    at: float
    recipient: str
    message_id: str


class Account:
    """Kept in memory, from the start of the world."""

    def __init__(self) -> None:
        self.taken: deque[Taken] = deque(maxlen=MOST_TOLD)
        self.replies: Counter[str] = Counter()
        self.dropped: Counter[str] = Counter()
        self.came_back: Counter[str] = Counter()
        self.connections = 0
        self.at_once = 0
        self.most_at_once = 0

    def connected(self) -> None:
        """A connection has begun."""
        self.connections += 1
        self.at_once += 1
        self.most_at_once = max(self.most_at_once, self.at_once)

    def disconnected(self) -> None:
        """One is over."""
        self.at_once -= 1

    def said(self, reply: str) -> None:
        """A recipient or a message was answered; with the enhanced code where there is one."""
        words = reply.split()
        self.replies[" ".join(words[: 2 if words[1:2] and words[1].count(".") == 2 else 1])] += 1

    def told(self) -> dict[str, object]:
        """The sums. `twice`: messages of one Message-ID that one person has more than once."""
        times = Counter((one.recipient, one.message_id) for one in self.taken)
        return {
            "taken": len(self.taken),
            "twice": sum(n > 1 for n in times.values()),
            "replies": dict(sorted(self.replies.items())),
            "dropped": dict(sorted(self.dropped.items())),
            "came_back": dict(sorted(self.came_back.items())),
            "connections": self.connections,
            "most_at_once": self.most_at_once,
        }
