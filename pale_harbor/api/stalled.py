"""Ends answers that nobody takes: whoever stops reading holds a file and a place for so long, and no longer."""

import asyncio
from typing import Any, Final

import structlog
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pale_harbor.api.told_paths import told_path

# So long a part of an answer may wait to be taken.
IDLE_S: Final = 120.0


class _Stalled(BaseException):
    """Nobody takes the answer. No error of the application, whose handlers pass it on."""


class _Waiting:
    """For a part of an answer to be taken. task: whoever gives it."""

    def __init__(self, task: "asyncio.Task[Any] | None") -> None:
        self._task, self._is_late = task, False

    def end(self) -> None:
        """It is waited no longer."""
        if self._task is not None:
            self._is_late = True
            self._task.cancel()

    def ended(self) -> bool:
        """Whether it was this that ended it, and nobody else wants it ended as well."""
        return self._is_late and self._task is not None and self._task.uncancel() == 0


class NoStalledReaders:
    """Gives an answer up where a part of it is not taken in time; the server then closes the connection."""

    def __init__(self, app: ASGIApp, idle_s: float = IDLE_S) -> None:
        self._app, self._idle_s = app, idle_s

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        loop = asyncio.get_running_loop()

        async def send_in_time(message: Message) -> None:
            # A timer alone: most parts are taken at once, and `asyncio.timeout` costs more than they do.
            waiting = _Waiting(asyncio.current_task())
            timer = loop.call_later(self._idle_s, waiting.end)
            try:
                await send(message)
            except asyncio.CancelledError as ended:
                if waiting.ended():
                    raise _Stalled from ended
                raise
            finally:
                timer.cancel()

        try:
            await self._app(scope, receive, send_in_time)
        except* _Stalled:
            structlog.get_logger().warning(
                "an answer was not taken", path=told_path(scope["path"]), waited_s=self._idle_s
            )
