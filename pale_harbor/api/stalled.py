"""Ends answers that nobody takes: whoever stops reading holds a file and a place for so long, and no longer."""

import asyncio
from typing import Final

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

# So long a part of an answer may wait to be taken.
IDLE_S: Final = 120.0


class _Stalled(BaseException):
    """Nobody takes the answer. No error of the application, whose handlers pass it on."""


class NoStalledReaders:
    """Gives an answer up where a part of it is not taken in time; the server then closes the connection."""

    def __init__(self, app: ASGIApp, idle_s: float = IDLE_S) -> None:
        self._app, self._idle_s = app, idle_s

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def send_in_time(message: Message) -> None:
            try:
                async with asyncio.timeout(self._idle_s):
                    await send(message)
            except TimeoutError as late:
                raise _Stalled from late

        try:
            await self._app(scope, receive, send_in_time)
        except* _Stalled:
            structlog.get_logger().warning("an answer was not taken", path=scope["path"], waited_s=self._idle_s)
