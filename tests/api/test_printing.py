"""Letters on paper over HTTP: laid out once, handed out to be kept, and nobody's but those who may release."""

import io

import pytest
from fastapi.testclient import TestClient
from pypdf import PdfReader

from tests.support.importing import import_people
from tests.support.museum import Museum
from tests.support.processes import until
from tests.support.web import sign_in

FILE = """Contact no.,First name,Last name,Street,Town,Postcode
P-01,Anke,Wren,7 Kiln Street,Skarn,SK1 1AA
P-02,Bram,Wren,2 Kiln Street,Skarn,SK2 9AA
"""


@pytest.fixture
def letters(client: TestClient, museum: Museum) -> str:
    """Where the letters of the campaign are, for which two are cleared."""
    import_people(museum, FILE)
    sign_in(client, museum.database)
    return f"/api/campaigns/{museum.campaign_id}/letters"


def laid_out(client: TestClient, letters: str) -> dict[str, object]:
    answer = client.post(letters, json={"paper": "din", "seen_cleared": 2})
    assert answer.status_code == 200, answer.text

    def made() -> dict[str, object] | None:
        told: dict[str, object] = client.get(letters).json()["open"]
        return told if told["state"] == "made" else None

    found: dict[str, object] = until(made, "the letters")
    return found


def test_letters_are_laid_out_downloaded_and_noted(client: TestClient, letters: str, museum: Museum) -> None:
    before = client.get(letters).json()
    assert (before["cleared"], before["usual_paper"], before["open"]) == (2, "din", None)
    sample = client.get(f"{letters}/sample.pdf?paper=us")
    assert sample.headers["content-disposition"].startswith("inline")
    assert "Anke Wren" in PdfReader(io.BytesIO(sample.content)).pages[0].extract_text()
    made = laid_out(client, letters)
    again = client.post(letters, json={"paper": "din", "seen_cleared": 2})
    assert (again.status_code, again.json()["code"]) == (409, "open")
    answer = client.get(f"{letters}/{made['id']}.pdf")
    assert answer.headers["content-type"] == "application/pdf"
    assert answer.headers["content-disposition"] == "attachment; filename*=utf-8''Walks%2C%20letters.pdf"
    assert answer.headers["cache-control"] == "no-store"
    assert len(PdfReader(io.BytesIO(answer.content)).pages) == 2
    for other in (f"{letters}/{int(str(made['id'])) + 1}.pdf", f"/api/campaigns/99/letters/{made['id']}.pdf"):
        assert client.get(other).status_code == 404
    # One of them says in the meantime that they want none.
    anke = museum.contact_id("P-01")
    told = {"refused": True, "wording": "By telephone: no letters"}
    assert client.post(f"/api/contacts/{anke}/post", json=told).status_code == 204
    after = client.post(f"{letters}/{made['id']}", json={"printed": True}).json()
    assert [(one["letters"], one["by"], one["kept"]) for one in after["before"]] == [(1, "Signe Vale", True)]
    person = client.get(f"/api/contacts/{anke}").json()
    assert (person["printed"], person["post_refusal"]["wording"]) == ([], "By telephone: no letters")
    assert client.get(f"/api/contacts/{museum.contact_id('P-02')}").json()["printed"][0]["campaign"] == "Walks"
    told = {"refused": False, "wording": "Wrote: letters, please"}
    assert client.post(f"/api/contacts/{anke}/post", json=told).status_code == 204
    assert client.get(letters).json()["cleared"] == 1


@pytest.mark.parametrize(
    ("body", "status"),
    [
        ({"paper": "din", "seen_cleared": 3}, 409),
        ({"paper": "a5", "seen_cleared": 2}, 422),
        ({"paper": "din", "seen_cleared": -1}, 422),
        ({"paper": "din"}, 422),
    ],
)
def test_what_cannot_be_laid_out_is_refused_and_nothing_is_begun(
    client: TestClient, letters: str, body: dict[str, object], status: int
) -> None:
    assert client.post(letters, json=body).status_code == status
    assert client.get(letters).json()["open"] is None


def test_somebody_who_says_nothing_of_why_is_asked(client: TestClient, letters: str, museum: Museum) -> None:
    where = f"/api/contacts/{museum.contact_id('P-01')}/post"
    answer = client.post(where, json={"refused": True, "wording": "  ok "})
    assert answer.status_code == 422
    assert "Say in what words, or how, they said so." in answer.text
    assert client.get(letters).json()["cleared"] == 2
    assert client.post("/api/contacts/9999/post", json={"refused": True, "wording": "By telephone"}).status_code == 404
