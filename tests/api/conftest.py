"""The web application over the museum, as a client reaches it."""

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import Museum
from tests.support.web import TestClock, web_client


@pytest.fixture
def clock() -> TestClock:
    return TestClock()


@pytest.fixture
def client(museum: Museum, clock: TestClock) -> Iterator[TestClient]:
    with web_client(museum.database, clock) as made:
        yield made
