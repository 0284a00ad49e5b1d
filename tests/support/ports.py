"""Ports for the tests' own servers."""

import socket


def free_port() -> int:
    """A port on loopback that nobody listens on at the moment."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
