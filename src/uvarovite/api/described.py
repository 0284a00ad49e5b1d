"""The API's description of itself (OpenAPI): what is refused is answered as a problem, everywhere in the same form."""

from typing import Any

from fastapi import FastAPI

_PROBLEM = {
    "type": "object",
    "title": "Problem",
    "description": "What is refused, or went wrong: problem details (RFC 9457). `code` is for programs, `detail` for people.",
    "required": ["type", "title", "status", "code", "detail"],
    "properties": {
        "type": {"type": "string"},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "code": {"type": "string"},
        "detail": {"type": "string"},
        "field": {"type": "string", "description": "Which of several values it is about"},
        "place": {
            "type": "object",
            "description": "Where in a text it is, counted from 1 in UTF-16 code units",
            "properties": {name: {"type": "integer"} for name in ("line", "column", "length")},
        },
        "theirs": {"description": "Of a conflict: how the thing stands now"},
    },
}


def _problem(words: str) -> dict[str, Any]:
    return {
        "description": words,
        "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }


def describe(app: FastAPI) -> None:
    """Let the application describe refusals as what they are, in place of what FastAPI would answer by itself."""
    made = app.openapi

    def openapi() -> dict[str, Any]:
        if app.openapi_schema:
            return app.openapi_schema
        document = made()
        schemas = document.setdefault("components", {}).setdefault("schemas", {})
        for name in ("HTTPValidationError", "ValidationError"):
            schemas.pop(name, None)
        schemas["Problem"] = _PROBLEM
        for methods in document["paths"].values():
            for operation in methods.values():
                operation["responses"].pop("422", None)
                operation["responses"]["4XX"] = _problem("It is refused, and nothing was changed")
                operation["responses"]["5XX"] = _problem("It could not be done")
        app.openapi_schema = document
        return document

    app.openapi = openapi  # type: ignore[method-assign]
