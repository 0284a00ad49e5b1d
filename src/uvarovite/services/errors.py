"""What a service can answer instead of a result. Each says whose doing it is.

ServiceRefusal           the caller's: read the message, change something
├── NotFound             what was asked for is not there (any more)
├── Conflict             somebody else was quicker, or the moment has passed: look again
└── BadInput             what was sent cannot be taken; `problem` has the place where it is a text of ours
"""

from collections.abc import Mapping

from uvarovite.core.language import Place


class ServiceRefusal(Exception):
    """The request is understood and not done; nothing was changed. `facts` are those of the code, where it has some."""

    def __init__(self, code: str, message: str, *, facts: Mapping[str, str | int] | None = None) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
        self.facts = facts or {}


class NotFound(ServiceRefusal):
    """It is not there."""

    def __init__(self, what: str) -> None:
        super().__init__("not_found", f"This {what} is not there any more.")


class Conflict(ServiceRefusal):
    """It has changed meanwhile; `theirs` is how it stands now, where there is something to compare."""

    def __init__(
        self, code: str, message: str, theirs: object = None, *, facts: Mapping[str, str | int] | None = None
    ) -> None:
        super().__init__(code, message, facts=facts)
        self.theirs = theirs


class BadInput(ServiceRefusal):
    """It cannot be taken as it is: `place` is where in a text, `field` which one of several values."""

    def __init__(
        self,
        code: str,
        message: str,
        place: Place | None = None,
        *,
        field: str = "",
        facts: Mapping[str, str | int] | None = None,
    ) -> None:
        super().__init__(code, message, facts=facts)
        self.place = place
        self.field = field
