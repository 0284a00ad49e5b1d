"""Handing over messages, with the raw limit: `smtp-source` into the same `smtp-sink` (both from Debian's package postfix).

One process, eight connections, messages of 8 KB that are not made but only handed over. 1.2 times as many messages a
second as `smtp-source -s 4 -d` are meant.
"""

import asyncio
import shutil
import statistics
import subprocess
import time
from functools import partial

import uvloop

from bench.sinks import Access, smtp_sink
from uvarovite.core.delivery.outcomes import Outcome, Told
from uvarovite.net.smtp import RelayLine

MESSAGES, CONNECTIONS, ROUNDS = 6_000, 8, 31
RAW = b"Subject: two walks are still open\r\n\r\n" + (b"x" * 70 + b"\r\n") * 113


async def _hand_over(port: int) -> None:
    done = asyncio.get_running_loop().create_future()
    lines = [RelayLine(Access(port)) for _ in range(CONNECTIONS)]
    left, told = MESSAGES, 0

    def feed(line: RelayLine) -> None:
        nonlocal left
        while left and line.has_room:
            left -= 1
            line.hand_over("walks@skarnmuseum.example", f"p{left}@slatepost.example", RAW, partial(settled, line))

    def settled(line: RelayLine, outcome: Outcome) -> None:
        nonlocal told
        assert isinstance(outcome, Told), outcome
        told += 1
        if told == MESSAGES:
            done.set_result(None)
        feed(line)

    for line in lines:
        await line.open()
        feed(line)
    await done
    for line in lines:
        await line.close()


def main() -> None:
    """Print the ratio."""
    source = shutil.which("smtp-source") or "/usr/sbin/smtp-source"
    ours, theirs = [], []
    with smtp_sink() as port:
        command = [source, "-s", "4", "-d", "-l", str(len(RAW)), "-m", str(MESSAGES), f"127.0.0.1:{port}"]
        for _ in range(ROUNDS):
            began = time.perf_counter()
            subprocess.run(command, check=True)
            between = time.perf_counter()
            uvloop.run(_hand_over(port))
            theirs.append(between - began)
            ours.append(time.perf_counter() - between)
    ratios = sorted(other / own for other, own in zip(theirs, ours, strict=True))
    print(
        f"handing over: {MESSAGES / statistics.median(ours):,.0f} messages a second, smtp-source "
        f"{MESSAGES / statistics.median(theirs):,.0f}; ratio {statistics.median(ratios):.2f} "
        f"(from {ratios[0]:.2f} to {ratios[-1]:.2f} in {ROUNDS} rounds)"
    )


if __name__ == "__main__":
    main()
