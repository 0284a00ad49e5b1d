"""What the pages for recipients work with."""

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from fastapi import Request

from uvarovite.core.responses import Keyring
from uvarovite.core.values import origin_key
from uvarovite.services.bounded import BoundedWork, TooBusyError
from uvarovite.services.responses.visits import Visit


def visit_of(request: Request) -> Visit:
    """A request as the services see it."""
    origin = origin_key(request.client.host if request.client else None)
    return Visit(method=request.method, agent=request.headers.get("user-agent", ""), origin=origin)


@dataclass(frozen=True, slots=True, kw_only=True)
class PublicDoor:
    """What the pages for recipients work with: connections and threads of their own, so that nothing that an account does
    makes them wait. `lost` are the faults of a database that does not answer in time. `recorded_at` is for tests: an
    instant that is recorded is else the database's.
    """

    database: Any
    work: BoundedWork
    keyring: Keyring
    clock: Callable[[], datetime]
    recorded_at: Callable[[], datetime | None]
    lost: tuple[type[BaseException], ...]

    @property
    def late(self) -> tuple[type[BaseException], ...]:
        """What says that an answer would come too late."""
        return (TooBusyError, *self.lost)


# What the forms of these pages say is a few hundred bytes long; whatever is longer is none.
_LARGEST_BODY = 16_384


async def body_of(request: Request) -> bytes | None:
    """What was posted; None for what is longer than any form of ours."""
    body = b""
    async for chunk in request.stream():
        body += chunk
        if len(body) > _LARGEST_BODY:
            return None
    return body
