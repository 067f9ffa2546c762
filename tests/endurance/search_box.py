"""A search box that everybody uses, in a process of its own.

Whoever measures on the server's own machine must take little of it: plain connections, and the parser that the server
has as well.

It asks so many times a second, whether or not it was answered before, so that a server that falls behind is seen to. A
machine that is kept from its processors falls behind as well, and nothing is learned from that: what was due meanwhile,
and for as long again until it has caught up, is told apart, and a thousand are waited for at most.
"""

import asyncio
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import cycle
from typing import Final
from urllib.parse import urlsplit

import httptools

from tests.endurance.withheld import Excused, Withheld

_SECONDS_BETWEEN_LOOKS: Final = 0.25
_MOST_UNDER_WAY: Final = 1_000


@dataclass(frozen=True, slots=True)
class Searched:
    """What came of it. seconds: of each search from when it was due, while the machine had its processors; others: of
    those that were due while it had not, or right after; passed_over: how many were not sent then, since so many
    waited; kept_s, excused_s: how long it was kept from them, and for how long that excused; wrong: answers that should
    not be."""

    seconds: list[float] = field(default_factory=list[float])
    others: list[float] = field(default_factory=list[float])
    passed_over: int = 0
    kept_s: float = 0.0
    excused_s: float = 0.0
    wrong: list[str] = field(default_factory=list[str])


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
        try:
            await asyncio.wait_for(self._answer, 120)
        except TimeoutError:
            # Its answer would be taken for the next one's.
            self._transport.close()
            raise
        return self._parser.get_status_code(), self._body

    def data_received(self, data: bytes) -> None:
        self._parser.feed_data(data)

    def on_body(self, body: bytes) -> None:
        self._body += body

    def on_message_complete(self) -> None:
        if not self._answer.done():
            self._answer.set_result(None)

    def connection_lost(self, exc: Exception | None) -> None:
        self.is_open = False
        if not self._answer.done():
            self._answer.set_exception(exc or ConnectionError("The server closed it."))


def searched(
    address: str, path: str, headers: Mapping[str, str], bodies: Sequence[bytes], rate: float, seconds: float
) -> Searched:
    """Asks so many a second for so long, whether or not those before were answered. bodies: what is asked, in turn."""
    return asyncio.run(_Box(address, path, headers).ask(bodies, rate, seconds))


class _Box:
    def __init__(self, address: str, path: str, headers: Mapping[str, str]) -> None:
        at = urlsplit(address)
        self._host, self._port, self._path = str(at.hostname), int(at.port or 80), path
        own = "".join(f"{name}: {value}\r\n" for name, value in headers.items())
        self._head = (
            f"POST {path} HTTP/1.1\r\nHost: {at.netloc}\r\nContent-Type: application/json\r\n{own}Content-Length: "
        ).encode()
        self._idle: list[_Connection] = []
        self._under_way = 0
        self._excused = Excused(time.monotonic())
        self._found = Searched()

    async def ask(self, bodies: Sequence[bytes], rate: float, seconds: float) -> Searched:
        begun, passed_over = time.monotonic(), 0
        looking = asyncio.create_task(self._look())
        async with asyncio.TaskGroup() as under_way:
            for number, body in enumerate(cycle(bodies)):
                due = begun + number / rate
                if due >= begun + seconds:
                    break
                await asyncio.sleep(max(0.0, due - time.monotonic()))
                if self._excused.is_excused and self._under_way >= _MOST_UNDER_WAY:
                    passed_over += 1
                else:
                    under_way.create_task(self._search(body, due))
        looking.cancel()
        own = self._excused
        return replace(self._found, passed_over=passed_over, kept_s=own.kept_s, excused_s=own.excused_s)

    async def _look(self) -> None:
        withheld = Withheld()
        while True:
            await asyncio.sleep(_SECONDS_BETWEEN_LOOKS)
            self._excused.look(time.monotonic(), withheld.share(), self._under_way)

    async def _search(self, body: bytes, due: float) -> None:
        self._under_way += 1
        was_excused = self._excused.is_excused
        try:
            # What nobody used for a while, the server has closed.
            while self._idle and not self._idle[-1].is_open:
                self._idle.pop()
            if self._idle:
                connection = self._idle.pop()
            else:
                _, connection = await asyncio.get_running_loop().create_connection(_Connection, self._host, self._port)
            status, content = await connection.ask(self._head + f"{len(body)}\r\n\r\n".encode() + body)
            self._idle.append(connection)
            if status != 200:
                self._found.wrong.append(f"{self._path}: {status} {content[:300]!r}")
        except OSError as error:
            self._found.wrong.append(f"{self._path}: {error!r}")
        taken = time.monotonic() - due
        self._under_way -= 1
        # It may have begun while this was under way, and be seen a moment later.
        if taken > _SECONDS_BETWEEN_LOOKS:
            await asyncio.sleep(2 * _SECONDS_BETWEEN_LOOKS)
        (self._found.others if was_excused or self._excused.is_excused else self._found.seconds).append(taken)
