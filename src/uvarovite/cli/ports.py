"""Ports that a process is about to listen on."""

import socket

from uvarovite.bootstrap.ports import port_is_free
from uvarovite.cli.app import FAILED, end
from uvarovite.settings import Settings


def need_port(settings: Settings, port: int, variable: str, kind: socket.SocketKind = socket.SOCK_STREAM) -> None:
    """End with what to do when somebody else has the port."""
    if not port_is_free(settings.host, port, kind):
        end(FAILED, f"Port {port} on {settings.host} is taken. Stop what uses it, or set {variable} to another.")
