"""Ports for the tests' own servers."""

import itertools
import os
import socket

# Below those that the system gives to outgoing connections, a stretch for each process that runs tests: between asking
# for a port and listening on it nobody else takes it.
_STRETCH = 200
_FIRST = 20_000 + os.getpid() % 60 * _STRETCH
_ports = itertools.cycle(range(_FIRST, _FIRST + _STRETCH))


def free_port() -> int:
    """A port on loopback that nobody listens on at the moment."""
    for port in itertools.islice(_ports, _STRETCH):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise AssertionError(f"no port is free from {_FIRST} on")
