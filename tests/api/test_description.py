"""The API answers as its description says: status codes, content types, bodies, headers, and what it refuses."""

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis import Case
from schemathesis.checks import not_a_server_error
from schemathesis.core.transport import Response
from schemathesis.specs.openapi import checks

from tests.api.test_any_input import DOCUMENT, LEFT_OUT, TAGS, client
from tests.support.museum import PUBLIC_URL

__all__ = ["client"]

SCHEMA = schemathesis.openapi.from_dict(DOCUMENT)
HELD = [
    not_a_server_error,
    checks.status_code_conformance,
    checks.content_type_conformance,
    checks.response_schema_conformance,
    checks.response_headers_conformance,
    checks.negative_data_rejection,
]


@pytest.mark.parametrize("tag", TAGS)
def test_every_answer_is_one_that_the_description_knows(client: TestClient, tag: str) -> None:
    tried = 0
    for found in SCHEMA.get_all_operations():
        operation = found.ok()
        method, path = operation.method.lower(), operation.path
        described = DOCUMENT["paths"][path][method]
        # Files are sent by tests of their own.
        upload = "multipart/form-data" in described.get("requestBody", {}).get("content", {})
        if tag not in described["tags"] or upload or (method, path) in LEFT_OUT:
            continue
        tried += 1

        @settings(
            max_examples=max(3, settings.default.max_examples // 20),
            deadline=None,
            database=None,
            suppress_health_check=list(HealthCheck),
            phases=[Phase.generate],
        )
        @given(case=operation.as_strategy())
        def holds(case: Case) -> None:
            asked = case.as_transport_kwargs(base_url=PUBLIC_URL)
            # The session's cookie is the client's.
            asked.pop("cookies", None)
            answer = client.request(**asked)
            case.validate_response(Response.from_any(answer), checks=HELD)

        holds()
    assert tried or tag == "sign-in"


def test_the_description_has_no_refusal_of_fastapis_own() -> None:
    assert "HTTPValidationError" not in DOCUMENT["components"]["schemas"]
    for methods in DOCUMENT["paths"].values():
        for operation in methods.values():
            assert {"4XX", "5XX"} < set(operation["responses"])
            assert "422" not in operation["responses"]
