"""What is written down about requests and jobs, and what never is."""

import io
import json
import logging
from collections.abc import Iterator

import pytest
import structlog
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from structlog.testing import capture_logs

from tests.support.museum import PUBLIC_URL, Museum
from tests.support.web import sign_in
from uvarovite.api.requests import ID_HEADER, Requests
from uvarovite.bootstrap.jobs import Jobs
from uvarovite.bootstrap.logs import set_up_logs, without_people
from uvarovite.services.errors import ServiceRefusal

ADDRESS = "ada@slatepost.example"


def test_a_request_is_one_line_with_its_route_its_id_and_nobodys_data(client: TestClient, museum: Museum) -> None:
    sign_in(client, museum.database)
    with capture_logs(processors=[structlog.contextvars.merge_contextvars]) as said:
        answer = client.get("/api/address", params={"text": ADDRESS}, headers={ID_HEADER: "proxy-said-this-1"})
        client.get("/api/contacts/3/record")
    assert answer.headers[ID_HEADER] == "proxy-said-this-1"
    lines = [line for line in said if line["event"] == "answered"]
    assert [(line["route"], line["status"], line["user"]) for line in lines] == [
        ("/api/address", 200, 1),
        ("/api/contacts/{contact_id}/record", 200, 1),
    ]
    assert lines[0]["request"] == "proxy-said-this-1"
    assert len(lines[1]["request"]) == 32
    assert ADDRESS not in str(said)


def test_a_recipients_token_is_in_no_line(client: TestClient) -> None:
    with capture_logs() as said:
        client.get("/l/a-token-that-is-somebodys")
        client.get("/nowhere/a-token-that-is-somebodys")
    assert len(said) == 2
    assert "somebodys" not in str(said)


@pytest.mark.parametrize("given", ["", "short", "x" * 65, "two words", "line\tbreak"])
def test_an_id_that_is_none_is_not_taken_over(client: TestClient, given: str) -> None:
    told = client.get("/health", headers={ID_HEADER: given}).headers[ID_HEADER]
    assert told != given
    assert len(told) == 32


def test_what_breaks_is_in_the_log_under_the_id_that_the_answer_has() -> None:
    app = FastAPI()

    @app.get("/break")
    def broken() -> None:
        raise RuntimeError(f"it was about {ADDRESS}")

    app.add_middleware(Requests)
    with (
        TestClient(app, base_url=PUBLIC_URL, raise_server_exceptions=False) as client,
        capture_logs(processors=[structlog.contextvars.merge_contextvars]) as said,
    ):
        assert client.get("/break", headers={ID_HEADER: "this-very-one"}).status_code == 500
    failed, answered = said
    assert (failed["event"], failed["log_level"], failed["request"]) == ("a request failed", "error", "this-very-one")
    assert (answered["status"], answered["route"]) == (500, "/break")


def test_a_job_that_nobody_waits_for_tells_the_log_how_it_ended() -> None:
    def fail() -> None:
        raise RuntimeError("the disk is full")

    def refuse() -> None:
        raise ServiceRefusal("shut", "Not now.")

    jobs = Jobs(max_workers=1)
    with capture_logs(processors=[structlog.contextvars.merge_contextvars]) as said:
        with structlog.contextvars.bound_contextvars(request="asked-for-it"):
            asked = [jobs.submit(fail), jobs.submit(refuse), jobs.submit(len, "four")]
        jobs.shutdown(wait=True)
    assert [line["event"] for line in said] == ["a job failed", "a job was refused"]
    assert {line["request"] for line in said} == {"asked-for-it"}
    assert asked[2].result() == 4
    with pytest.raises(RuntimeError):
        asked[0].result()


@pytest.fixture
def stream(monkeypatch: pytest.MonkeyPatch) -> Iterator[io.StringIO]:
    """The error stream, with the log set up on it as a process does."""
    written = io.StringIO()
    monkeypatch.setattr("sys.stderr", written)
    root, level = logging.getLogger(), logging.getLogger().level
    handlers = list(root.handlers)
    set_up_logs("a test")
    yield written
    root.handlers, root.level = handlers, level
    structlog.reset_defaults()


def test_libraries_and_errors_tell_no_address_and_no_row_either(stream: io.StringIO) -> None:
    quoted = f'duplicate key\nDETAIL:  Key (address)=({ADDRESS}) exists.\n[parameters: {{"name": "Ada"}}]'
    logging.getLogger("some.library").error("could not write to %s", ADDRESS)
    try:
        raise ValueError(quoted)
    except ValueError:
        structlog.get_logger().exception("it failed", about=[ADDRESS], token="uvarovite_abcdef", n=3)
    lines = [json.loads(line) for line in stream.getvalue().splitlines()]
    assert [line["event"] for line in lines] == ["could not write to an address", "it failed"]
    assert (lines[1]["process"], lines[1]["level"], lines[1]["n"]) == ("a test", "error", 3)
    assert "duplicate key" in lines[1]["exception"]
    for quoted_part in (ADDRESS, "Key (address)", '"Ada"', "abcdef"):
        assert quoted_part not in stream.getvalue().replace("raise ValueError(quoted)", "")


@given(
    before=st.text(max_size=20),
    local=st.from_regex(r"[\w.+'-]{1,20}", fullmatch=True),
    domain=st.from_regex(r"[a-z0-9-]{1,12}(\.[a-z]{2,8}){1,2}", fullmatch=True),
    after=st.text(max_size=20),
)
def test_no_address_gets_through(before: str, local: str, domain: str, after: str) -> None:
    assert f"{local}@{domain}" not in without_people(f"{before} {local}@{domain} {after}")
