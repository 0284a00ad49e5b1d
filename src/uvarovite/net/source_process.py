"""Live sources are read in a process of their own: whatever a SELECT takes in memory or in time, it takes nothing of ours.

What the database's own time limit cannot do, since a SELECT can switch it off, the clock of the one who waits does.
"""

import signal
import tempfile
from collections.abc import Callable
from dataclasses import asdict
from functools import partial
from typing import IO, Any

import orjson

from uvarovite.core.contacts.import_faults import SourceFault
from uvarovite.core.contacts.live_sources import SourceAccess, SourceAsk, SourcePreview
from uvarovite.net.live_sources import LOOK_SECONDS, PULL_SECONDS
from uvarovite.net.source_hosts import SourceRules, pinned
from uvarovite.sandbox.process import Limits, run_child

# A portion of rows with long texts, and the drivers; what a file of a source may take, as one that is brought in.
_MEMORY_BYTES, _OUTPUT_BYTES = 768 * 1024**2, 512 * 1024**2
# Beyond the database's own limit, which tells in words what was too slow.
_GRACE_SECONDS = 15


def tables_of(access: SourceAccess, *, rules: SourceRules) -> list[str]:
    """The tables and views of a database. Raises SourceFault."""
    found: list[str] = _answer("tables", access, SourceAsk(), rules)
    return found


def preview_source(access: SourceAccess, ask: SourceAsk, *, rules: SourceRules) -> SourcePreview:
    """How many rows there are, and the first of them. Raises SourceFault."""
    told = _answer("preview", access, ask, rules)
    samples = tuple(map(tuple, told["samples"]))
    return SourcePreview(rows=told["rows"], headers=tuple(told["headers"]), samples=samples)


def read_source(
    access: SourceAccess, ask: SourceAsk, into: IO[bytes], tell: Callable[[int, int], None], *, rules: SourceRules
) -> int:
    """Read everything as CSV into a file; how many rows. Raises SourceFault."""
    return int(_run("read", access, ask, into, rules, PULL_SECONDS, tell))


def _answer(action: str, access: SourceAccess, ask: SourceAsk, rules: SourceRules) -> Any:
    with tempfile.TemporaryFile() as out:
        return _run(action, access, ask, out, rules, LOOK_SECONDS, lambda done, total: None)


def _run(
    action: str,
    access: SourceAccess,
    ask: SourceAsk,
    out: IO[bytes],
    rules: SourceRules,
    seconds: int,
    tell: Callable[[int, int], None],
) -> Any:
    request = {"action": action, "access": asdict(pinned(access, rules)), "ask": asdict(ask)}
    answers: list[Any] = []
    limits = Limits(
        memory_bytes=_MEMORY_BYTES,
        cpu_seconds=seconds,
        output_bytes=_OUTPUT_BYTES,
        patience_seconds=seconds + _GRACE_SECONDS,
        files=64,
    )
    with tempfile.TemporaryFile() as given:
        given.write(orjson.dumps(request))
        given.seek(0)
        ended = run_child("uvarovite.net.source_child", given, out, limits, hears=partial(_hear, answers, tell))
    # Whoever uses up their time at once is ended by the system, whoever sits it out by us.
    if ended is None or ended == -signal.SIGXCPU:
        raise SourceFault("slow", seconds=seconds)
    if not answers:
        raise SourceFault("refused", how="memory")
    told = answers[0]
    if "fault" in told:
        raise SourceFault(told["fault"], **told["facts"])
    return told["answer"]


def _hear(answers: list[Any], tell: Callable[[int, int], None], line: bytes) -> None:
    """A line of the child: how far it has come, or its answer. What is neither is the last breath of a driver."""
    try:
        told = orjson.loads(line)
    except orjson.JSONDecodeError:
        return
    if isinstance(told, dict) and "done" in told:
        tell(told["done"], told["total"])
    elif isinstance(told, dict):
        answers.append(told)
