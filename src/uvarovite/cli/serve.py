"""The command that runs the web server."""

from uvarovite.bootstrap.database import DatabaseUnreachable
from uvarovite.bootstrap.web import serve_web
from uvarovite.cli.app import FAILED, app, end
from uvarovite.cli.ports import need_port
from uvarovite.settings import load_settings


@app.command()
def serve() -> None:
    """The web server: the application, and the pages for recipients."""
    settings = load_settings()
    need_port(settings, settings.web_port, "UVAROVITE_WEB_PORT")
    try:
        settings.secret()
        serve_web(settings)
    except (DatabaseUnreachable, ValueError) as fault:
        end(FAILED, str(fault))
