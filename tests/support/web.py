"""The web application in this process, over a real database, spoken to by HTTP."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime
from typing import Any

from fastapi.testclient import TestClient
from pydantic import SecretStr

from tests.support.museum import NOW, PUBLIC_URL, SECRET
from uvarovite.api.guard import CSRF_HEADER
from uvarovite.bootstrap.web import build_web
from uvarovite.core.accounts import SYSTEM
from uvarovite.services.accounts.users import create_user
from uvarovite.settings import Settings
from uvarovite.store.database import Database

EMAIL, PASSWORD = "signe.vale@skarnmuseum.example", "garnet-lantern-41"


class TestClock:
    """A clock that stands still until it is moved."""

    __test__ = False

    def __init__(self) -> None:
        self.now = NOW

    def __call__(self) -> datetime:
        return self.now


@contextmanager
def web_client(database: Database, clock: TestClock, **settings: Any) -> Iterator[TestClient]:
    """A browser without a session."""
    told = Settings(
        database_url=SecretStr(database.url), secret_key=SecretStr(SECRET.decode()), public_url=PUBLIC_URL, **settings
    )
    with TestClient(build_web(told, database, clock), base_url=PUBLIC_URL, follow_redirects=False) as client:
        yield client


def sign_in(client: TestClient, database: Database, *, make: bool = True) -> None:
    """Make the user and sign the client in."""
    if make:
        create_user(database, SYSTEM, email=EMAIL, name="Signe Vale", password=PASSWORD, now=NOW)
    answer = client.post("/api/session", json={"email": EMAIL, "password": PASSWORD})
    assert answer.status_code == 200, answer.text
    client.headers[CSRF_HEADER] = answer.json()["csrf_token"]
