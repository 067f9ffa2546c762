"""Ends the work of requests whose visitor went away, since nobody waits for it any more; and lets searches go first."""

import asyncio
from contextlib import nullcontext, suppress
from typing import Final

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.work.running.giving_way import going_first
from pale_harbor.work.running.wanted import wanted_while

# What visitors ask: other work gives way to it.
GO_FIRST: Final = "/search"


class WhileWaitedFor:
    """Lets long work see, through `check_wanted`, whether whoever asked for it is still there and what goes first."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        visitor = _Visitor(receive)
        first = going_first() if scope["path"].endswith(GO_FIRST) else nullcontext()
        with first, patterns_within_bounds(), wanted_while(lambda: not visitor.gone.is_set()):
            try:
                await self._app(scope, visitor.receive, send)
            finally:
                await visitor.forget()


class _Visitor:
    """Whoever sent a request. Once its body is read, the server hears of nothing but their going away."""

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._watching: asyncio.Task[None] | None = None
        self.gone = asyncio.Event()

    async def receive(self) -> Message:
        if self._watching is not None:
            await self.gone.wait()
            return {"type": "http.disconnect"}
        message = await self._receive()
        if message["type"] == "http.disconnect":
            self.gone.set()
        elif not message.get("more_body", False):
            self._watching = asyncio.create_task(self._watch())
        return message

    async def _watch(self) -> None:
        while (await self._receive())["type"] != "http.disconnect":
            pass
        self.gone.set()

    async def forget(self) -> None:
        if self._watching is not None:
            self._watching.cancel()
            with suppress(asyncio.CancelledError):
                await self._watching
