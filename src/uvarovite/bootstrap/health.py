"""Is this process alive, can it work, and what are its figures: on a port of their own, for whoever watches it."""

import json
import threading
from collections.abc import Callable, Iterable
from typing import Any
from wsgiref.simple_server import WSGIRequestHandler, WSGIServer, make_server

from prometheus_client import make_wsgi_app

from uvarovite.settings import Settings
from uvarovite.store.database import Database, DatabaseUnreachable
from uvarovite.store.schema import is_current


def is_ready(database: Database) -> str:
    """Why this process cannot work now, in a word or two; empty when it can."""
    try:
        database.check()
    except DatabaseUnreachable:
        return "the database does not answer"
    return "" if is_current(database) else "the schema is not that of this version"


class _Quiet(WSGIRequestHandler):
    def log_message(self, *_: Any) -> None:
        """A probe every few seconds is nothing to write down."""


class _Threads(WSGIServer):
    daemon_threads = True


def serve_health(settings: Settings, database: Database) -> None:
    """Answer /health, /ready and /metrics in a thread of its own until the process ends; not where no port is set."""
    if settings.health_port == 0:
        return
    figures = make_wsgi_app()

    def app(environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        path = environ.get("PATH_INFO", "")
        if path == "/metrics":
            return [*figures(environ, start)]
        if path == "/health":
            status, told = "200 OK", {"status": "alive"}
        elif path == "/ready":
            reason = is_ready(database)
            status, told = (
                ("503 Service Unavailable", {"status": reason}) if reason else ("200 OK", {"status": "ready"})
            )
        else:
            status, told = "404 Not Found", {"status": "there is /health, /ready and /metrics"}
        start(status, [("Content-Type", "application/json"), ("Cache-Control", "no-store")])
        return [json.dumps(told).encode()]

    server = make_server(settings.host, settings.health_port, app, server_class=_Threads, handler_class=_Quiet)
    threading.Thread(target=server.serve_forever, name="health", daemon=True).start()
