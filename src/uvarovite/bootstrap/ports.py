"""Whether a server can listen at a port."""

import socket


def port_is_free(host: str, port: int, kind: socket.SocketKind = socket.SOCK_STREAM) -> bool:
    """Can a server listen there now? `kind` is SOCK_DGRAM for UDP."""
    with socket.socket(type=kind) as probe:
        if kind is socket.SOCK_STREAM:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            return False
    return True
