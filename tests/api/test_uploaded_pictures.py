"""Pictures for letters: uploaded by those who write, fetched by anybody who has the address."""

import pytest
from fastapi.testclient import TestClient

from tests.core.test_pictures import picture
from tests.support.museum import Museum
from tests.support.web import sign_in


@pytest.fixture
def client(client: TestClient, museum: Museum) -> TestClient:
    sign_in(client, museum.database)
    return client


def test_a_picture_that_was_uploaded_is_fetched_by_anybody_under_the_digest_of_its_bytes(
    client: TestClient, museum: Museum
) -> None:
    file = {"file": ("lamp.png", picture("PNG"), "text/html")}
    kept = client.post("/api/pictures", files=file).json()
    assert (kept["name"], kept["width"], kept["height"]) == ("lamp.png", 40, 20)
    assert client.post("/api/pictures", files=file).json()["address"] == kept["address"]
    assert [one["address"] for one in client.get("/api/pictures").json()] == [kept["address"]]
    path = "/p/" + kept["address"].rpartition("/p/")[2]
    client.cookies.clear()
    answer = client.get(path)
    assert answer.headers["content-type"] == "image/png"
    assert "immutable" in answer.headers["cache-control"]
    assert len(answer.content) == kept["bytes"]
    for wrong in (path.replace(".png", ".gif"), "/p/nothing.png"):
        assert client.get(wrong).status_code == 404


def test_a_picture_that_is_a_script_is_refused_with_a_word(client: TestClient) -> None:
    answer = client.post("/api/pictures", files={"file": ("lamp.png", b"<script>alert(1)</script>", "image/png")})
    assert answer.status_code == 422
    assert (
        answer.json()["detail"] == "This is no picture that mail programs show. Save it as PNG or JPEG, and try again."
    )
