"""The log: one line of JSON for each thing that happened, on the error stream; on a terminal in colours.

It never holds an address, a secret or a value of a record. Whatever is said goes through `without_people`, what other
libraries say too: a library's error may quote the row that it was about.
"""

import logging
import re
import sys
from collections.abc import MutableMapping
from typing import Any

import structlog

# An address; what a link or a page brings after "?"; the row or the key that PostgreSQL quotes; a token of ours.
_ADDRESS = re.compile(r"[^\s<>\"'(),;:=]+@[^\s<>\"'(),;:]+")
_ROW = re.compile(r"(DETAIL|CONTEXT|HINT): [^\n]*")
_PARAMETERS = re.compile(r"\[parameters: [^\n]*")
_TOKEN = re.compile(r"\b(uvarovite_|Bearer )\S+")


def without_people(text: str) -> str:
    """The text without what may be about somebody."""
    for pattern, instead in ((_ROW, r"\1: …"), (_PARAMETERS, "[…"), (_TOKEN, r"\1…"), (_ADDRESS, "an address")):
        text = pattern.sub(instead, text)
    return text


def _without_people(_: Any, __: str, event: MutableMapping[str, Any]) -> MutableMapping[str, Any]:
    for key, value in event.items():
        if isinstance(value, str):
            event[key] = without_people(value)
        elif not isinstance(value, bool | int | float | None):
            event[key] = without_people(str(value))
    return event


def set_up_logs(process: str) -> None:
    """Send everything that this process logs, what libraries log too, through one form."""
    shared: list[Any] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        lambda _, __, event: {"process": process, **event},
        structlog.processors.format_exc_info,
        _without_people,
    ]
    terminal = sys.stderr.isatty()
    last: Any = structlog.dev.ConsoleRenderer() if terminal else structlog.processors.JSONRenderer(ensure_ascii=False)
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO),
        logger_factory=structlog.stdlib.LoggerFactory(),
        cache_logger_on_first_use=False,
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, last],
        )
    )
    root = logging.getLogger()
    root.handlers = [handler]
    root.setLevel(logging.INFO)
    # A request that failed is told by us, with its id.
    logging.getLogger("uvicorn.error").addFilter(lambda told: "in ASGI application" not in told.getMessage())
    # What they say at each request is said by us already, with its id and without its query.
    for name in ("uvicorn.access", "httpx", "alembic", "multipart", "mail.log"):
        logging.getLogger(name).setLevel(logging.WARNING)
