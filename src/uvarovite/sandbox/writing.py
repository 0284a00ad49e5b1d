"""A written file read in a process of its own, with limits on memory, time and output; its blocks come back as JSON."""

import orjson
from pydantic import TypeAdapter

from uvarovite.core.messages.from_files import WordsOfFile, WritingFault
from uvarovite.sandbox.process import Limits, ask_child

# A Word file of 20 MB takes 400 MB and some seconds.
LIMITS = Limits(memory_bytes=2 * 1024**3, cpu_seconds=30, output_bytes=64 << 20, patience_seconds=90)


def read_writing(data: bytes, filename: str) -> WordsOfFile:
    """What was written in a file. Raises WritingFault: what core.messages.from_files raises, and `unreadable`."""
    answer = ask_child("uvarovite.sandbox.writing_child", (orjson.dumps(filename), b"\n", data), LIMITS)
    if answer is None:
        raise WritingFault("unreadable")
    told, _ = answer
    if "fault" in told:
        raise WritingFault(told["fault"], **told["facts"])
    return TypeAdapter(WordsOfFile).validate_python(told["found"])
