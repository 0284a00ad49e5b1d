"""A sink that answers late: each reply goes out so many seconds after its command, as over a long road.

Several commands at once (RFC 2920) are answered each in its own time, not one after the other.
"""

import asyncio
import sys
from typing import cast

import uvloop

_REPLIES = {b"EHLO": b"250-sink\r\n250-PIPELINING\r\n250 8BITMIME\r\n", b"DATA": b"354 go\r\n", b"QUIT": b"221 bye\r\n"}


class LateSink(asyncio.Protocol):
    """One connection."""

    def __init__(self, seconds: float) -> None:
        self._seconds = seconds
        self._held = b""
        self._in_text = False

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        """Greet."""
        # The loop's transports are none of the library's kind.
        self._transport = cast("asyncio.Transport", transport)
        self._answer(b"220 sink\r\n")

    def data_received(self, data: bytes) -> None:
        """Answer every command and every text that is whole."""
        self._held += data
        while True:
            whole, end, rest = self._held.partition(b"\r\n.\r\n" if self._in_text else b"\r\n")
            if not end:
                return
            self._held = rest
            if self._in_text:
                self._in_text = False
                self._answer(b"250 2.0.0 Ok\r\n")
            else:
                verb = whole[:4].upper()
                self._in_text = verb == b"DATA"
                self._answer(_REPLIES.get(verb, b"250 2.1.0 Ok\r\n"))

    def _answer(self, reply: bytes) -> None:
        asyncio.get_running_loop().call_later(self._seconds, self._transport.write, reply)


async def _serve(port: int, seconds: float) -> None:
    server = await asyncio.get_running_loop().create_server(lambda: LateSink(seconds), "127.0.0.1", port)
    await server.serve_forever()


if __name__ == "__main__":
    uvloop.run(_serve(int(sys.argv[1]), float(sys.argv[2])))
