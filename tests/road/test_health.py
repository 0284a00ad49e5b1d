"""How a running process says that it is well, and what its log holds."""

import json
from pathlib import Path

import httpx

from tests.support.databases import drop_database
from tests.support.museum import Museum
from tests.support.ports import free_port
from tests.support.processes import installation, until
from tests.support.web import EMAIL
from uvarovite.store.cluster import Cluster
from uvarovite.store.database import run_sql


def _asked(url: str) -> httpx.Response | None:
    try:
        return httpx.get(url)
    except httpx.TransportError:
        return None


def test_processes_tell_whether_they_can_work_and_log_nobodys_address(
    museum: Museum, cluster: Cluster, tmp_path: Path
) -> None:
    web, worker = free_port(), free_port()
    with installation(museum.database.url, tmp_path, UVAROVITE_HEALTH_PORT=str(web)) as world:
        world.start_web()
        world.environment["UVAROVITE_HEALTH_PORT"] = str(worker)
        world.start("worker")
        for port in (web, worker):
            url = f"http://127.0.0.1:{port}"
            answer = until(lambda url=url: _asked(f"{url}/ready"), "a process that says it is ready")
            assert (answer.status_code, answer.json()) == (200, {"status": "ready"})
            assert httpx.get(f"{url}/health").json() == {"status": "alive"}
            assert httpx.get(f"{url}/else").status_code == 404
        httpx.post(f"{world.web_url}/api/session", json={"email": EMAIL, "password": "a wrong guess"})
        httpx.get(f"{world.web_url}/api/address", params={"text": EMAIL})
        figures = httpx.get(f"http://127.0.0.1:{web}/metrics").text
        assert 'uvarovite_requests_total{method="POST",route="/api/session",status="401"} 1.0' in figures
        assert "uvarovite_request_seconds_bucket" in figures
        assert httpx.get(f"{world.web_url}/ready").json() == {"status": "ready"}

        # Another version's schema, and then no database at all: alive, and not ready.
        with museum.database.transaction() as tx:
            run_sql(tx, "UPDATE alembic_version SET version_num = 'later'")
        assert httpx.get(f"http://127.0.0.1:{web}/ready").json() == {"status": "the schema is not that of this version"}
        museum.database.close()
        drop_database(cluster, museum.database.url.rpartition("/")[2])
        gone = httpx.get(f"{world.web_url}/ready", timeout=30)
        assert (gone.status_code, gone.json()) == (503, {"status": "not ready"})
        assert httpx.get(f"{world.web_url}/health").status_code == 200

        lines = [json.loads(line) for line in (tmp_path / "serve.log").read_text().splitlines()]
        assert {"answered"} <= {line["event"] for line in lines}
        assert all(line["process"] == "web" for line in lines)
        for log in ("serve.log", "worker.log"):
            assert EMAIL not in (tmp_path / log).read_text()
            assert "slatepost.example" not in (tmp_path / log).read_text()
