"""Who looks is told what came back, by a real server over a real line; and nobody who looks keeps it from stopping."""

import json
import signal
from pathlib import Path

import httpx
import pytest

from tests.support.museum import KEYRING, NOW, Museum
from tests.support.processes import installation
from tests.support.sending import send_all
from tests.support.web import EMAIL, PASSWORD
from uvarovite.core.accounts import SYSTEM
from uvarovite.core.responses import Purpose, Token, sign_token
from uvarovite.services.accounts.users import create_user


def test_whoever_looks_is_told_and_a_stop_lets_them_go(museum: Museum, tmp_path: Path) -> None:
    create_user(museum.database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    run_id = museum.release(NOW)
    send_all(museum, run_id)
    token = Token(purpose=Purpose.OPEN, delivery_id=museum.delivery_id(run_id, "M-01"))
    with installation(museum.database.url, tmp_path) as world, httpx.Client(timeout=30) as client:
        world.start_web()
        web = world.running[-1]
        stream = f"{world.web_url}/api/responses/live"
        assert client.get(stream).status_code == 401
        assert (
            client.post(f"{world.web_url}/api/session", json={"email": EMAIL, "password": PASSWORD}).status_code == 200
        )
        with client.stream("GET", stream) as told:
            assert told.headers["content-type"].startswith("text/event-stream")
            lines = (line for line in told.iter_lines() if line.startswith("data:"))
            # It listens now: whatever came before may have been missed.
            assert json.loads(next(lines).removeprefix("data:")) == []
            httpx.get(f"{world.web_url}/o/{sign_token(token, KEYRING)}.gif")
            assert json.loads(next(lines).removeprefix("data:")) == [run_id]
            web.send_signal(signal.SIGTERM)
            with pytest.raises(StopIteration):
                next(lines)
        web.wait(20)
