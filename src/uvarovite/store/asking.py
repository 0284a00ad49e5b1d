"""Who asks: known to what is done for one request, so that nobody takes what is there for all."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Condition

# The user whose request is being answered; None for what is done by itself, or from the command line.
asking: ContextVar[int | None] = ContextVar("asking", default=None)


class Shares:
    """So many at once for each user; those who are many wait for themselves."""

    def __init__(self, each: int, patience_seconds: float) -> None:
        self._each = each
        self._patience = patience_seconds
        self._taken: dict[int, int] = {}
        self._given_back = Condition()

    @contextmanager
    def one(self) -> Iterator[bool]:
        """Take one of the asking user's; False when none became free in time."""
        user = asking.get()
        if user is None:
            yield True
            return
        with self._given_back:
            free = self._given_back.wait_for(lambda: self._taken.get(user, 0) < self._each, self._patience)
            if free:
                self._taken[user] = self._taken.get(user, 0) + 1
        try:
            yield free
        finally:
            if free:
                with self._given_back:
                    self._taken[user] -= 1
                    if not self._taken[user]:
                        del self._taken[user]
                    self._given_back.notify_all()
