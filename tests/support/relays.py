"""Relays that behave badly on purpose: scripts of replies over a real socket."""

import asyncio
import ssl
import threading
from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager
from dataclasses import dataclass, field

# What a relay answers by default, by the first word of a command.
POLITE = {
    "EHLO": "250-relay.example\r\n250 SMTPUTF8",
    "HELO": "250 relay.example",
    "MAIL": "250 2.1.0 Ok",
    "RCPT": "250 2.1.5 Ok",
    "DATA": "354 Go on",
    ".": "250 2.0.0 Ok: queued",
    "RSET": "250 2.0.0 Ok",
    "QUIT": "221 2.0.0 Bye",
}
DROP = "drop the connection"
SILENCE = "say nothing"


@dataclass
class Script:
    """`replies` overrides POLITE; a value of DROP or SILENCE does that instead. `seen` is what was said to it.

    With a `tls` context it offers STARTTLS, where that is among its replies, or, `tls_first`, begins with TLS. Bytes that are no UTF-8 are written as Python's surrogateescape holds them: "\\udcff" is the byte FF.
    """

    replies: dict[str, str] = field(default_factory=dict)
    greeting: str = "220 relay.example ready"
    tls: ssl.SSLContext | None = None
    tls_first: bool = False
    seen: list[str] = field(default_factory=list)
    messages: list[bytes] = field(default_factory=list)
    connections: int = 0

    async def greet(self, number: int) -> str:
        """What the connection of that number, from 1, is greeted with."""
        return self.greeting

    async def hears(self, line: bytes) -> bool:
        """Does it go on, having heard a command, or the "." that ends a message?"""
        return True


async def _converse(script: Script, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    script.connections += 1

    async def say(word: str, text: str) -> bool:
        if text == DROP:
            return False
        if text == SILENCE:
            await asyncio.sleep(3600)
        writer.write(f"{text}\r\n".encode("utf-8", "surrogateescape"))
        await writer.drain()
        return word != "QUIT" and not text.startswith("421")

    going = await say("", await script.greet(script.connections))
    while going and (line := await reader.readline()):
        word = line.split()[0].decode("latin-1").upper() if line.split() else ""
        script.seen.append(word)
        if not await script.hears(line):
            break
        text = script.replies.get(word, POLITE.get(word, "502 5.5.1 What?"))
        going = await say(word, text)
        if going and word == "STARTTLS" and text.startswith("220"):
            assert script.tls is not None
            await writer.start_tls(script.tls)
        if going and word == "DATA" and text.startswith("354"):
            raw = await reader.readuntil(b"\r\n.\r\n")
            script.messages.append(raw)
            going = await script.hears(b".") and await say(".", script.replies.get(".", POLITE["."]))
    writer.close()


@asynccontextmanager
async def relay(script: Script) -> AsyncIterator[int]:
    """A relay that follows a script; its port."""
    tasks: set[asyncio.Task[None]] = set()

    async def accept(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        task = asyncio.current_task()
        assert task is not None
        tasks.add(task)
        try:
            await _converse(script, reader, writer)
        except (asyncio.CancelledError, ConnectionError, asyncio.IncompleteReadError, ssl.SSLError):
            writer.close()

    server = await asyncio.start_server(
        accept, "127.0.0.1", 0, limit=1 << 26, ssl=script.tls if script.tls_first else None
    )
    try:
        yield server.sockets[0].getsockname()[1]
    finally:
        server.close()
        for task in tasks:
            task.cancel()
        await asyncio.gather(*tasks, return_exceptions=True)


@contextmanager
def relay_aside(script: Script) -> Iterator[int]:
    """The same in a thread of its own, for tests that do not wait themselves; its port."""
    started, ports = threading.Event(), []
    loop = asyncio.new_event_loop()
    done = asyncio.Event()

    async def serve() -> None:
        async with relay(script) as port:
            ports.append(port)
            started.set()
            await done.wait()

    thread = threading.Thread(target=loop.run_until_complete, args=(serve(),))
    thread.start()
    try:
        assert started.wait(30)
        yield ports[0]
    finally:
        loop.call_soon_threadsafe(done.set)
        thread.join(30)
        loop.close()
