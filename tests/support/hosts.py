"""Hosts of a network that is this machine's own: network namespaces on a bridge, whose links can be slowed and cut.

It takes root, and `ip` and `tc` of Debian's iproute2. Nothing leaves the machine: the bridge leads nowhere.
"""

import os
import shutil
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager

HERE = "10.77.0.1"


def can_make_hosts() -> bool:
    """Is this machine able to?"""
    return os.geteuid() == 0 and all(shutil.which(tool) for tool in ("ip", "tc"))


def _run(*command: str) -> None:
    subprocess.run(command, check=True, capture_output=True, text=True)


class Host:
    """Another host, by its number from 2 on."""

    def __init__(self, number: int) -> None:
        self.name, self._link = f"uvarovite-{number}", f"uvarovite{number}"
        _run("ip", "netns", "add", self.name)
        _run("ip", "link", "add", self._link, "type", "veth", "peer", "name", "eth0", "netns", self.name)
        _run("ip", "link", "set", self._link, "master", "uvarovite", "up")
        self._inside("ip", "addr", "add", f"10.77.0.{number}/24", "dev", "eth0")
        self._inside("ip", "link", "set", "eth0", "up")
        self._inside("ip", "link", "set", "lo", "up")

    def _inside(self, *command: str) -> None:
        _run(*self.prefix, *command)

    @property
    def prefix(self) -> tuple[str, ...]:
        """What a command begins with that runs there."""
        return ("ip", "netns", "exec", self.name)

    def cut(self) -> None:
        """Its link is down."""
        _run("ip", "link", "set", self._link, "down")

    def mend(self) -> None:
        """Its link is up again."""
        _run("ip", "link", "set", self._link, "up")

    def slow(self) -> None:
        """So slow that a batch takes its time."""
        _run(
            "tc",
            "qdisc",
            "add",
            "dev",
            self._link,
            "root",
            "tbf",
            "rate",
            "256kbit",
            "burst",
            "8kb",
            "latency",
            "400ms",
        )

    def remove(self) -> None:
        """It is gone, with its link."""
        subprocess.run(["ip", "netns", "del", self.name], check=False, capture_output=True)


@contextmanager
def hosts(count: int) -> Iterator[list[Host]]:
    """So many hosts beside this one, which they reach at HERE."""
    made: list[Host] = []
    _run("ip", "link", "add", "uvarovite", "type", "bridge")
    try:
        _run("ip", "addr", "add", f"{HERE}/24", "dev", "uvarovite")
        _run("ip", "link", "set", "uvarovite", "up")
        for number in range(count):
            made.append(Host(number + 2))
        yield made
    finally:
        for host in made:
            host.remove()
        subprocess.run(["ip", "link", "del", "uvarovite"], check=False, capture_output=True)
