"""The built front end, for every address that is nothing else's."""

from pathlib import Path

from fastapi import FastAPI, Response
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles

from uvarovite.api.problems import problem


def serve_front_end(app: FastAPI, dist: Path) -> None:
    """Serve what is built at `dist`; without it, say how it is built."""
    if (dist / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=dist / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return problem(404, "not_found", "There is nothing at this address.")
        if (dist / "index.html").is_file():
            return FileResponse(dist / "index.html", headers={"Cache-Control": "no-cache"})
        return problem(503, "no_front_end", "The front end is not built yet: run “make setup”.")
