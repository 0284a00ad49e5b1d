"""Bad input over HTTP: a clear problem each time, and nothing half-written."""

import json

import pytest
from fastapi.testclient import TestClient

from tests.support.museum import MESSAGE, Museum
from tests.support.ports import free_port
from tests.support.web import sign_in
from uvarovite.services.imports.files import LARGEST_UPLOAD_BYTES
from uvarovite.store.database import run_sql


@pytest.fixture
def client(client: TestClient, museum: Museum) -> TestClient:
    sign_in(client, museum.database)
    return client


FILES = [
    (b"", "file_empty", "empty"),
    (b"\xff\xfe\x00\xd8garbage", "file_encoding", "CSV UTF-8"),
    (b"PK\x03\x04\x14\x00", "file_workbook", "damaged"),
    (b"a@b.example,Ada,Gray\n", "file_no_header", "column names"),
    (b"E-mail,Town\n" + b"x" * LARGEST_UPLOAD_BYTES, "file_too_large", "512 MB"),
    (b'E-mail,Town\na@b.example,"open\n', "file_broken_quotes", "line 2"),
]


@pytest.mark.parametrize(("data", "code", "words"), FILES, ids=[row[1] for row in FILES])
def test_a_bad_file_is_refused_with_what_to_do(
    client: TestClient, museum: Museum, data: bytes, code: str, words: str
) -> None:
    answer = client.post("/api/imports", files={"file": ("people.csv", data, "text/csv")})
    problem = answer.json()
    assert (answer.status_code, problem.get("code")) == (422, code), problem
    assert words in problem["detail"]
    assert answer.headers["content-type"] == "application/problem+json"
    with museum.database.transaction() as tx:
        assert run_sql(tx, "SELECT count(*) FROM import_file WHERE written_at IS NULL")[0][0] == 0
        assert run_sql(tx, "SELECT count(*) FROM contact")[0][0] == 10


def test_an_expression_with_a_typo_keeps_its_text_and_its_place(client: TestClient) -> None:
    view = client.post("/api/criteria", json={"text": 'town startswith "Sk"'}).json()
    assert view["matched"] is None
    assert view["problem"]["suggestion"] == 'town starts with "Sk"'
    assert (view["problem"]["line"], view["problem"]["column"], view["problem"]["length"]) == (1, 6, 10)
    answer = client.post("/api/audiences", json={"name": "x", "text": 'town startswith "Sk"'})
    assert (answer.status_code, answer.json()["place"]) == (422, {"line": 1, "column": 6, "length": 10})


def test_a_tree_that_is_none_is_refused(client: TestClient) -> None:
    unfinished = {"kind": "subscribed", "topic": "Walks", "since": {"kind": "text", "text": ""}}
    for tree in ("{}", '{"kind": "any", "children": []}', '{"kind": "shoe size"}', json.dumps(unfinished)):
        answer = client.post(
            "/api/criteria", content=f'{{"tree": {tree}}}', headers={"Content-Type": "application/json"}
        )
        assert (answer.status_code, answer.json()["code"]) == (422, "unreadable"), tree


@pytest.mark.parametrize("depth", [100, 500, 5_000])
def test_a_tree_of_any_depth_is_answered(client: TestClient, depth: int) -> None:
    deep = '{"kind": "not", "child": ' * depth + '{"kind": "all", "children": []}' + "}" * depth
    answer = client.post("/api/criteria", content=f'{{"tree": {deep}}}', headers={"Content-Type": "application/json"})
    assert answer.status_code in (200, 400, 422)
    assert answer.status_code != 200 or answer.json()["problem"]["code"] == "too_deep"


def test_a_message_with_an_unknown_field_is_told_in_the_lens_and_not_sent(client: TestClient, museum: Museum) -> None:
    content = MESSAGE.model_copy(update={"subject": "@{firstname}"}).model_dump(mode="json")
    person = client.post("/api/lens/person", json={"content": content, "topic_id": museum.topic_id}).json()
    ask = {"content": content, "topic_id": museum.topic_id, "contact_id": person["contact_id"]}
    lens = client.post("/api/lens", json=ask).json()
    assert lens["problems"][0]["part"] == "subject"
    assert lens["html"] == ""
    answer = client.post("/api/test-send", json={"content": content, "contact_id": lens["contact_id"]})
    assert (answer.status_code, answer.json()["code"]) == (422, "problems")


def test_a_relay_that_is_not_there_is_told_in_words(client: TestClient, museum: Museum) -> None:
    relay = {"name": "Main relay", "host": "127.0.0.1", "port": free_port(), "security": "none"}
    assert client.put(f"/api/relays/{museum.relay_id}", json=relay).status_code == 200
    steps = client.post(f"/api/relays/{museum.relay_id}/try").json()
    assert [step["worked"] for step in steps] == [True, False]
    assert "Nothing listens at 127.0.0.1" in steps[1]["words"]
    body = {"content": MESSAGE.model_dump(mode="json"), "contact_id": museum.contact_id("M-01")}
    answer = client.post("/api/test-send", json=body)
    assert (answer.status_code, answer.json()["code"]) == (422, "relay")
    assert answer.json()["detail"].startswith("The test was not sent. Nothing listens at")


def test_a_relays_limits_and_names_are_kept_and_what_is_no_name_is_refused(client: TestClient, museum: Museum) -> None:
    own = {
        "minute_limit": 60, "hourly_limit": 2_000, "daily_limit": None, "connections": 8, "messages_per_connection": 50,
        "timeout_seconds": 30, "hello_name": "mail.museum.example", "envelope_domain": "bounces.xn--bcher-kva.example",
    }  # fmt: skip
    relay = {"name": "Main relay", "host": "127.0.0.1", "port": 25, "security": "none", **own}
    typed = {**relay, "envelope_domain": " Bounces.Bücher.example. "}
    assert client.put(f"/api/relays/{museum.relay_id}", json=typed).status_code == 200
    kept = client.get("/api/vocabulary").json()["pools"][0]["relays"][0]
    assert {key: kept[key] for key in own} == own
    for wrong in ("museum", "a b.example", "x@museum.example", "mail.museum.example\r\nQUIT", "-a.example"):
        refused = client.put(f"/api/relays/{museum.relay_id}", json={**relay, "hello_name": wrong})
        assert (refused.status_code, refused.json()["code"]) == (422, "host_name"), wrong
    assert client.put(f"/api/relays/{museum.relay_id}", json={**relay, "connections": 0}).status_code == 422


def test_a_relays_password_is_stored_sealed_and_never_shown(client: TestClient, museum: Museum) -> None:
    relay = {"name": "M", "host": "127.0.0.1", "port": 25, "security": "none", "username": "u", "password": "hush-hush"}
    answer = client.put(f"/api/relays/{museum.relay_id}", json=relay)
    assert answer.json()["has_password"] is True
    assert "hush-hush" not in answer.text + client.get("/api/vocabulary").text
    with museum.database.transaction() as tx:
        sealed = run_sql(tx, "SELECT sealed_password FROM relay")[0][0]
    assert sealed
    assert "hush-hush" not in sealed
    kept = client.put(f"/api/relays/{museum.relay_id}", json={**relay, "password": None})
    assert kept.json()["has_password"] is True
    for change in ({"host": "elsewhere.example"}, {"port": 26}, {"security": "tls"}, {"username": "v"}):
        refused = client.put(f"/api/relays/{museum.relay_id}", json={**relay, "password": None, **change})
        assert (refused.status_code, refused.json()["code"]) == (422, "password_again")
    with museum.database.transaction() as tx:
        run_sql(tx, "UPDATE relay SET host = 'elsewhere.example'")
    tried = client.post(f"/api/relays/{museum.relay_id}/try")
    assert (tried.status_code, tried.json()["code"]) == (422, "secret")


REFUSED = [
    ("POST", "/api/campaigns", {"name": " "}, "no_name"),
    ("POST", "/api/campaigns", {"name": "Walks"}, "taken"),
    ("POST", "/api/campaigns", {"name": "x", "pace": {"batch_size": 0}}, "unreadable"),
    ("POST", "/api/campaigns", {"name": "x", "audience_id": 999}, "gone"),
    ("POST", "/api/audiences", {"name": "Everyone", "text": "everyone"}, "taken"),
    ("POST", "/api/messages", {"name": "x", "content": {"blocks": [{"kind": "script"}]}}, "unreadable"),
    ("GET", "/api/contacts?after=nonsense", None, "bad_page"),
    ("GET", "/api/contacts/999", None, "not_found"),
    ("GET", "/api/runs/999", None, "not_found"),
    ("GET", "/api/runs/1/deliveries?state=nonsense", None, "state"),
    ("GET", "/api/deliveries/999/trace", None, "not_found"),
    ("POST", "/api/runs/999/pause", None, "not_found"),
    ("GET", "/api/nothing/here", None, "not_found"),
]


@pytest.mark.parametrize(("method", "path", "body", "code"), REFUSED)
def test_what_cannot_be_done_is_a_problem_with_words(
    client: TestClient, method: str, path: str, body: dict[str, object] | None, code: str
) -> None:
    answer = client.request(method, path, json=body)
    assert 400 <= answer.status_code < 500
    assert answer.json()["code"] == code
    assert len(answer.json()["detail"]) > 10


def test_pages_carry_their_guards(client: TestClient) -> None:
    answer = client.get("/contacts")
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"
