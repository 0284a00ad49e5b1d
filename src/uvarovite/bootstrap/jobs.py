"""Work that goes on after a request was answered. Nobody may be waiting for it any more: the log hears how it ended."""

import contextvars
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import structlog
from prometheus_client import Counter

from uvarovite.services.errors import ServiceRefusal

log = structlog.get_logger()

_JOBS = Counter("uvarovite_jobs_total", "jobs that ended", ["ended"])


class Jobs(ThreadPoolExecutor):
    """Threads for jobs. Each has the request's id and asker in its log, and none loses what it failed with."""

    def submit(self, fn: Callable[..., Any], /, *args: Any, **kwargs: Any) -> Future[Any]:
        """Do it in a thread."""
        return super().submit(contextvars.copy_context().run, _watched, fn, *args, **kwargs)


def _watched(fn: Callable[..., Any], *args: Any, **kwargs: Any) -> Any:
    try:
        done = fn(*args, **kwargs)
    except ServiceRefusal as refused:
        # Whoever asked is told; the log keeps it for those who had left by then.
        log.warning("a job was refused", code=refused.code)
        _JOBS.labels("refused").inc()
        raise
    except BaseException:
        log.exception("a job failed")
        _JOBS.labels("failed").inc()
        raise
    _JOBS.labels("done").inc()
    return done
