"""A search box that everybody uses, in a process of its own.

Whoever measures on the server's own machine must take little of it: plain connections, and the parser that the server
has as well.
"""

import asyncio
import time
from collections.abc import Mapping, Sequence
from itertools import cycle
from urllib.parse import urlsplit

import httptools


class _Connection(asyncio.Protocol):
    """One request after the other."""

    def connection_made(self, transport: asyncio.BaseTransport) -> None:
        assert isinstance(transport, asyncio.Transport)
        self._transport, self.is_open = transport, True
        self._parser = httptools.HttpResponseParser(self)
        self._answer: asyncio.Future[None] = asyncio.get_running_loop().create_future()
        self._body = b""

    async def ask(self, request: bytes) -> tuple[int, bytes]:
        """The answer's status and body. Raises ConnectionError."""
        self._answer, self._body = asyncio.get_running_loop().create_future(), b""
        self._transport.write(request)
        await asyncio.wait_for(self._answer, 120)
        return self._parser.get_status_code(), self._body

    def data_received(self, data: bytes) -> None:
        self._parser.feed_data(data)

    def on_body(self, body: bytes) -> None:
        self._body += body

    def on_message_complete(self) -> None:
        self._answer.set_result(None)

    def connection_lost(self, exc: Exception | None) -> None:
        self.is_open = False
        if not self._answer.done():
            self._answer.set_exception(exc or ConnectionError("The server closed it."))


def searched(
    address: str, path: str, headers: Mapping[str, str], bodies: Sequence[bytes], rate: float, seconds: float
) -> tuple[list[float], list[str]]:
    """Asks so many a second for so long, whether or not the ones before were answered: how long each took, in seconds
    from when it was due, and what went wrong. bodies: what is asked, in turn."""
    return asyncio.run(_searched(address, path, headers, bodies, rate, seconds))


async def _searched(
    address: str, path: str, headers: Mapping[str, str], bodies: Sequence[bytes], rate: float, seconds: float
) -> tuple[list[float], list[str]]:
    at = urlsplit(address)
    host, port = str(at.hostname), int(at.port or 80)
    own = "".join(f"{name}: {value}\r\n" for name, value in headers.items())
    head = f"POST {path} HTTP/1.1\r\nHost: {at.netloc}\r\nContent-Type: application/json\r\n{own}Content-Length: "
    idle: list[_Connection] = []
    taken: list[float] = []
    wrong: list[str] = []

    async def ask(body: bytes, due: float) -> None:
        try:
            # What nobody used for a while, the server has closed.
            while idle and not idle[-1].is_open:
                idle.pop()
            if idle:
                connection = idle.pop()
            else:
                _, connection = await asyncio.get_running_loop().create_connection(_Connection, host, port)
            status, content = await connection.ask(head.encode() + f"{len(body)}\r\n\r\n".encode() + body)
            idle.append(connection)
            if status != 200:
                wrong.append(f"{path}: {status} {content[:300]!r}")
        except OSError as error:
            wrong.append(f"{path}: {error!r}")
        taken.append(time.monotonic() - due)

    begun = time.monotonic()
    async with asyncio.TaskGroup() as under_way:
        for number, body in enumerate(cycle(bodies)):
            due = begun + number / rate
            if due >= begun + seconds:
                break
            await asyncio.sleep(max(0.0, due - time.monotonic()))
            under_way.create_task(ask(body, due))
    return taken, wrong
