"""A file as the answer to a request: to be kept, or looked at."""

from urllib.parse import quote

from fastapi import Response

from uvarovite.services.messages.saved_file import SavedFile


def handed_out(file: SavedFile, *, to_look_at: bool = False) -> Response:
    """The answer with a file under its name (RFC 6266); it may hold what people told us, so no browser keeps a copy."""
    how = "inline" if to_look_at else "attachment"
    told = f"{how}; filename*=utf-8''{quote(file.name, safe='')}"
    headers = {"Content-Disposition": told, "Cache-Control": "no-store"}
    return Response(file.content, media_type=file.media_type, headers=headers)
