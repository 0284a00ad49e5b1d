"""What a load balancer asks: is it alive, and can it work. Nothing else is told to strangers."""

from collections.abc import Callable

from fastapi import APIRouter
from fastapi.responses import JSONResponse


def probes(not_ready: Callable[[], str]) -> APIRouter:
    """/health and /ready; `not_ready` gives why it cannot work, empty when it can."""
    router = APIRouter(include_in_schema=False)

    @router.get("/health")
    def health() -> JSONResponse:
        return JSONResponse({"status": "alive"}, headers={"Cache-Control": "no-store"})

    @router.get("/ready")
    def ready() -> JSONResponse:
        reason = not_ready()
        return JSONResponse(
            {"status": "not ready" if reason else "ready"}, 503 if reason else 200, {"Cache-Control": "no-store"}
        )

    return router
