"""Characters that PostgreSQL's text cannot hold, refused wherever they could come from (a request's path, its query, its
JSON), so that no route has to think of them: NUL, and half of a surrogate pair, which JSON can say and UTF-8 cannot
(RFC 8259, section 8.2).
"""

import re
from contextlib import suppress
from typing import Any

from fastapi import Request

from uvarovite.services.errors import BadInput

_UNSTORABLE = re.compile("[\0\ud800-\udfff]")
_FORM = re.compile(r"\s*(multipart/form-data|application/x-www-form-urlencoded)\b", re.IGNORECASE)
# How JSON writes them; most pairs of surrogates are whole, so that what is found here is looked at again.
_MAYBE = re.compile(rb"\\u(0000|[dD][89a-fA-F])")


async def refuse_unstorable(request: Request) -> None:
    """Raises BadInput where a text of the request has such a character in it."""
    texts = [request.scope["path"], *request.query_params.keys(), *request.query_params.values()]
    # Whatever is no form may be taken for JSON, by whichever name it goes (RFC 6839, section 3.1).
    if not _FORM.match(request.headers.get("content-type", "")) and _MAYBE.search(await request.body()):
        # What is no JSON is for the route to refuse.
        with suppress(ValueError, RecursionError):
            texts.extend(_texts(await request.json()))
    if any(_UNSTORABLE.search(text) for text in texts):
        raise BadInput(
            "unstorable", "There is a character in the text that stands for nothing (NUL, or half of one); take it out."
        )


def _texts(value: Any) -> list[str]:
    """Every text in a value of JSON; keys are texts too."""
    found: list[str] = []
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, str):
            found.append(one)
        elif isinstance(one, dict):
            waiting.extend(one)
            waiting.extend(one.values())
        elif isinstance(one, list):
            waiting.extend(one)
    return found
