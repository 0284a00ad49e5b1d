"""A picture read in a process of its own, with limits on memory, time and output."""

from uvarovite.core.messages.pictures import PictureFault, ReadyPicture
from uvarovite.sandbox.process import Limits, ask_child

# 80 million pixels take 320 MB, and as much again while they are scaled.
LIMITS = Limits(memory_bytes=3 * 1024**3, cpu_seconds=40, output_bytes=64 << 20, patience_seconds=120)


def read_picture(data: bytes) -> ReadyPicture:
    """A picture as it is kept. Raises PictureFault: what core.messages.pictures raises, and `broken`."""
    answer = ask_child("uvarovite.sandbox.picture_child", (data,), LIMITS)
    if answer is None:
        raise PictureFault("broken")
    told, content = answer
    if "fault" in told:
        raise PictureFault(told["fault"], **told["facts"])
    return ReadyPicture(kind=told["kind"], width=told["width"], height=told["height"], content=content)
