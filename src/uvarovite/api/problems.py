"""Errors as problem details (RFC 9457): `code` for programs, `detail` for people."""

from collections.abc import Callable
from typing import Any

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from uvarovite.api.requests import ID_HEADER, request_id
from uvarovite.core.values.bounds import fault_in_words, field_of
from uvarovite.services.bounded import TooBusyError
from uvarovite.services.errors import BadInput, Conflict, NotFound, ServiceRefusal

_STATUS: dict[str, int] = {
    "too_many": 429,
    "wrong_log_in": 401,
    "used_link": 401,
    "not_signed_in": 401,
    "csrf": 403,
    "not_allowed": 403,
}


def problem(status: int, code: str, detail: str, **more: object) -> JSONResponse:
    """One problem as a response."""
    body = {"type": f"urn:uvarovite:{code}", "title": code.replace("_", " "), "status": status, "code": code}
    return JSONResponse({**body, "detail": detail, **more}, status, media_type="application/problem+json")


def add_problem_handlers(
    app: FastAPI,
    *,
    unavailable: tuple[type[Exception], ...],
    gone: type[Exception],
    rule_broken: type[Exception],
    is_taken: Callable[[Any], bool],
    guard: Callable[[Request, JSONResponse], None],
) -> None:
    """Turn what services refuse, what FastAPI cannot read and what breaks into problem details.

    `unavailable` are the faults of a database that does not answer in time, `gone` what a rehearsal raises that was thrown
    away; `rule_broken` is its fault where one of its
    rules was not met, and `is_taken` tells whether that was a name that somebody else took a moment before. What nobody else catches is answered beyond
    every middleware: `guard` gives that answer its headers.
    """

    @app.exception_handler(Exception)
    async def broken(request: Request, fault: Exception) -> JSONResponse:
        if isinstance(fault, unavailable):
            told = problem(503, "unavailable", "The database does not answer in time. Try again in a moment.")
        else:
            told = problem(
                500, "fault", "Something went wrong on the server; its log says more. Look again before you repeat it."
            )
        told.headers[ID_HEADER] = request_id(request.scope)
        guard(request, told)
        return told

    @app.exception_handler(gone)
    async def thrown_away(request: Request, fault: Exception) -> JSONResponse:
        return await refused(request, NotFound("rehearsal"))

    @app.exception_handler(rule_broken)
    async def taken(request: Request, fault: Exception) -> JSONResponse:
        if not is_taken(fault):
            raise fault
        return problem(
            422, "taken", "This name was taken a moment ago. Choose another, or look at the one that is there."
        )

    @app.exception_handler(TooBusyError)
    async def busy(request: Request, fault: Exception) -> JSONResponse:
        return problem(429, "too_many", "Many people are signing in just now. Try again in a moment.")

    @app.exception_handler(ServiceRefusal)
    async def refused(request: Request, fault: ServiceRefusal) -> JSONResponse:
        status = 404 if isinstance(fault, NotFound) else 409 if isinstance(fault, Conflict) else 422
        status = _STATUS.get(fault.code, status)
        if isinstance(fault, Conflict) and fault.theirs is not None:
            return problem(status, fault.code, fault.message, theirs=jsonable_encoder(fault.theirs))
        if isinstance(fault, BadInput) and fault.place:
            place = {"line": fault.place.line, "column": fault.place.column, "length": fault.place.length}
            return problem(status, fault.code, fault.message, place=place)
        if isinstance(fault, BadInput) and fault.field:
            return problem(status, fault.code, fault.message, field=fault.field)
        return problem(status, fault.code, fault.message)

    @app.exception_handler(RequestValidationError)
    async def unreadable(request: Request, fault: RequestValidationError) -> JSONResponse:
        # The first part of a place is where the request has it: in its path, its query, its body.
        first = {**fault.errors()[0]}
        first["loc"] = first["loc"][1:]
        return problem(422, "unreadable", fault_in_words(first), field=field_of(first))

    @app.exception_handler(HTTPException)
    async def http(request: Request, fault: HTTPException) -> JSONResponse:
        return problem(fault.status_code, f"http_{fault.status_code}", str(fault.detail))
