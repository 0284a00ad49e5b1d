"""A change that is sent again is done once (draft-ietf-httpapi-idempotency-key-header): after a lost answer, by a double
click, by a retry. The sender gives each change a key; whoever asks again under it gets the first answer.
"""

import asyncio
import hashlib
import re
import time
from collections.abc import Awaitable, Callable
from dataclasses import replace
from datetime import datetime
from typing import Any

from fastapi import Request, Response
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from uvarovite.api.guard import READING
from uvarovite.api.problems import problem
from uvarovite.core.accounts import Actor
from uvarovite.services.errors import Conflict, ServiceRefusal
from uvarovite.services.saving import once as service
from uvarovite.services.saving.once import AlreadyDone, Answered

KEY_HEADER, REPLAYED_HEADER = "Idempotency-Key", "Idempotency-Replayed"
_KEY = re.compile(r"[\w-]{8,100}", re.ASCII)
# A longer answer is not kept; a page that asks again is told to look for itself.
_LONGEST_KEPT = 512 * 1024
_PATIENCE_SECONDS = 30.0


def told_once(request: Request) -> None:
    """For a route whose answer holds a secret: that is told this once, and kept nowhere, for whoever asks again either."""
    request.state.told_once = True


class OnceEach:
    """Pure ASGI, behind the guard, which tells who is asking."""

    def __init__(self, app: ASGIApp, *, database: Any, clock: Callable[[], datetime]) -> None:
        self._app = app
        self._database = database
        self._clock = clock

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Do a change under its key, or give the answer that it had."""
        key, actor = _keyed(scope)
        if key is None or actor is None or actor.user_id is None:
            await self._app(scope, receive, send)
            return
        if not _KEY.fullmatch(key):
            refused = problem(422, "key", f"{KEY_HEADER} is 8 to 100 letters, digits, hyphens or underscores.")
            await refused(scope, receive, send)
            return
        asked = _Asked(scope, receive)
        once, token = service.begin(actor.user_id, _own(actor, key), asked.fingerprint, self._clock())
        done = await asyncio.to_thread(service.is_known, self._database, once)
        if done:
            await asked.read()

        async def settle(answer: Answered) -> None:
            if answer.status < 400:
                if scope.get("state", {}).get("told_once"):
                    answer = replace(answer, body=None)
                await asyncio.to_thread(service.keep_answer, self._database, once, answer)
            elif once.claimed:
                await asyncio.to_thread(service.forget_key, self._database, once)

        told = _Told(send, settle)
        try:
            if done:
                raise AlreadyDone
            await self._app(scope, asked.receive, told.send)
        except AlreadyDone:
            await (await self._replay(once))(scope, receive, send)
        except BaseException:
            if once.claimed:
                await asyncio.to_thread(service.forget_key, self._database, once)
            raise
        finally:
            service.end(token)

    async def _replay(self, once: Any) -> Response:
        """What the first one was answered, as soon as it is."""
        began = time.monotonic()
        while time.monotonic() - began < _PATIENCE_SECONDS:
            try:
                told = await asyncio.to_thread(service.answered, self._database, once)
            except ServiceRefusal as fault:
                return problem(409 if isinstance(fault, Conflict) else 422, fault.code, fault.message)
            if told is not None:
                break
            await asyncio.sleep(0.05)
        else:
            return problem(409, "being_done", "This is being done already. Look again in a moment.")
        if told.body is None and told.status != 204:
            return problem(409, "done_already", "This was done already. Load the page again to see it.")
        return Response(told.body, told.status, media_type=told.kind, headers={REPLAYED_HEADER: "true"})


def _keyed(scope: Scope) -> tuple[str | None, Actor | None]:
    """The key of a change, and who sends it."""
    if scope["type"] != "http" or scope["method"] in READING:
        return None, None
    asker = Request(scope).state.asker
    return Headers(scope=scope).get(KEY_HEADER), asker.actor if asker else None


def _own(actor: Actor, key: str) -> str:
    """A program's keys are apart from its user's: what was answered to one may be more than the other may see."""
    return f"{actor.token_id} {key}" if actor.token_id else key


class _Asked:
    """What is asked for, as it comes in; of a form the body has a boundary that differs each time."""

    def __init__(self, scope: Scope, receive: Receive) -> None:
        self._receive = receive
        self._form = Headers(scope=scope).get("content-type", "").startswith("multipart/")
        self._digest = hashlib.sha256(f"{scope['method']} {scope['path']}?".encode() + scope["query_string"])

    async def receive(self) -> Message:
        message = await self._receive()
        if message["type"] == "http.request" and not self._form:
            self._digest.update(message.get("body", b""))
        return message

    async def read(self) -> None:
        """Read it to its end: what is asked for is known by its whole body."""
        while (await self.receive()).get("more_body", False):
            pass

    def fingerprint(self) -> str:
        return self._digest.hexdigest()


class _Told:
    """What is answered: settled before it is sent, so that whoever asks again after that finds it."""

    def __init__(self, send: Send, settle: Callable[[Answered], Awaitable[None]]) -> None:
        self._send = send
        self._settle = settle
        self._held: list[Message] = []
        self._size = 0
        self.status = 0

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.status = message["status"]
        self._held.append(message)
        self._size += len(message.get("body", b""))
        more = message["type"] == "http.response.start" or message.get("more_body", False)
        if more and self._size <= _LONGEST_KEPT:
            return
        if not more:
            await self._settle(self._answered())
        for held in self._held:
            await self._send(held)
        self._held = []

    def _answered(self) -> Answered:
        start, body = self._held[0], b"".join(one.get("body", b"") for one in self._held)
        whole = start["type"] == "http.response.start" and self._size <= _LONGEST_KEPT
        kind = MutableHeaders(scope=start).get("content-type") if whole else None
        readable = whole and (kind or "").startswith(("application/json", "text/"))
        return Answered(status=self.status, kind=kind, body=body.decode() if readable else None)
