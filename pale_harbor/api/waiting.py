"""Ends the work of requests whose visitor went away or that took too long, lets searches go first, and sees to it that
nobody has all the threads."""

import asyncio
from collections.abc import AsyncGenerator
from contextlib import asynccontextmanager, nullcontext, suppress
from dataclasses import dataclass, field
from time import monotonic, perf_counter
from typing import Final

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pale_harbor.api.problems import ENDED_FOR, MEDIA_TYPE, Problem
from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.work.people.asking import who_asks
from pale_harbor.work.running.giving_way import going_first
from pale_harbor.work.running.memory_budget import MemoryBudget, Taken
from pale_harbor.work.running.wanted import wanted_while

# What visitors ask: other work gives way to it.
GO_FIRST: Final = "/search"
# So many requests of one address are worked on at once. The others wait for their turn, and hold no thread meanwhile.
AT_ONCE: Final = 8
# So long a request may take, its turn waited for included.
LONGEST_S: Final = 600.0
# What is no work: whether the server lives, what it tells of its own accord, and what is read from a file.
_NO_WORK: Final = ("/api/health", "/api/alive", "/api/events", "/export")
# Of a request that waits for its turn so much is taken in.
_KEPT_BYTES: Final = 1_000_000
# What is answered sooner than that is not watched: whether somebody still waits for it is of no use any more.
_SOON_S: Final = 0.02


class WhileWaitedFor:
    """Lets long work see, through `check_wanted`, whether whoever asked for it is still there, and has time and memory
    left."""

    def __init__(
        self, app: ASGIApp, budget: MemoryBudget, at_once: int = AT_ONCE, longest_s: float = LONGEST_S
    ) -> None:
        self._app, self._budget, self._longest_s = app, budget, longest_s
        self._turns = _Turns(at_once)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        until = monotonic() + self._longest_s
        visitor = _Visitor(receive)
        goes_first = scope["path"].endswith(GO_FIRST)
        first = going_first() if goes_first else nullcontext()
        is_work = scope["path"].startswith("/api/") and not scope["path"].endswith(_NO_WORK)
        # Searches have a line of their own, which is short.
        turn = self._turns.taken((_address(scope), goes_first), visitor, until) if is_work else _at_once()

        try:
            async with turn:
                if is_work and (refusal := self._budget.refusal()) is not None:
                    await _not_now(refusal)(scope, receive, send)
                    return
                with self._budget.counted() if is_work else nullcontext(Taken()) as taken:

                    def is_wanted() -> bool:
                        return not visitor.gone.is_set() and monotonic() < until and taken.over is None

                    scope[ENDED_FOR] = lambda: taken.over
                    with first, patterns_within_bounds(perf_counter), wanted_while(is_wanted):
                        await self._app(scope, visitor.receive, send)
        except _NoTurn:
            detail = (
                f"So much was asked for by you at once that this did not come to its turn within {self._longest_s:g} "
                "s. Wait until something of it is done."
            )
            await _not_now(detail)(scope, receive, send)
        finally:
            await visitor.forget()


def _address(scope: Scope) -> str:
    """By what people are told apart: by who they are, and where nobody signed in by where they ask from."""
    called = who_asks().called
    if called is not None:
        return called
    client = scope.get("client")
    return "" if client is None else str(client[0])


@asynccontextmanager
async def _at_once() -> AsyncGenerator[None]:
    yield


class _NoTurn(Exception):
    """Whoever waited for a turn went away, or waited as long as a request may take."""


def _not_now(detail: str) -> JSONResponse:
    problem = Problem(title="Not available now", status=503, detail=detail)
    return JSONResponse(problem.model_dump(), 503, media_type=MEDIA_TYPE)


@dataclass(slots=True)
class _Line:
    """Those of one address: how many are worked on, and who waits."""

    free: asyncio.Semaphore
    here: int = field(default=0)


class _Turns:
    """Gives each address so many turns at once, in the order in which they are asked for.

    whose: an address, and whether it is a search.
    """

    def __init__(self, at_once: int) -> None:
        self._at_once = at_once
        self._lines: dict[tuple[str, bool], _Line] = {}

    @asynccontextmanager
    async def taken(self, whose: tuple[str, bool], visitor: "_Visitor", until: float) -> AsyncGenerator[None]:
        """A turn, waited for as long as the visitor does. Raises _NoTurn."""
        line = self._lines.setdefault(whose, _Line(asyncio.Semaphore(self._at_once)))
        line.here += 1
        try:
            if line.free.locked():
                await self._waited(line, visitor, until)
            else:
                await line.free.acquire()
            try:
                yield
            finally:
                line.free.release()
        finally:
            line.here -= 1
            if line.here == 0:
                self._lines.pop(whose, None)

    async def _waited(self, line: _Line, visitor: "_Visitor", until: float) -> None:
        turn = asyncio.ensure_future(line.free.acquire())
        left = asyncio.ensure_future(visitor.left())
        try:
            timeout = max(0.0, until - monotonic())
            await asyncio.wait((turn, left), timeout=timeout, return_when=asyncio.FIRST_COMPLETED)
            if not turn.done() or left.done():
                raise _NoTurn
        except BaseException:
            # A turn that comes all the same is for the next one.
            turn.add_done_callback(lambda one: None if one.cancelled() else line.free.release())
            turn.cancel()
            raise
        finally:
            left.cancel()
            with suppress(asyncio.CancelledError):
                await left


class _Visitor:
    """Whoever sent a request. Once its body is read, the server hears of nothing but their going away."""

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._early: list[Message] = []
        # Once all of the body is here.
        self._soon: asyncio.TimerHandle | None = None
        self._watching: asyncio.Task[None] | None = None
        self.gone = asyncio.Event()

    async def receive(self) -> Message:
        if self._early:
            return self._early.pop(0)
        if self._soon is not None:
            self._watch_now()
            await self.gone.wait()
            return {"type": "http.disconnect"}
        return await self._next()

    async def left(self) -> None:
        """Ends when they go away; what they send until then is kept for whoever reads it, as far as there is room.

        Whoever has sent more than that is not heard to go away.
        """
        kept = 0
        while self._soon is None and not self.gone.is_set():
            if kept > _KEPT_BYTES:
                await asyncio.Event().wait()
            message = await self._next()
            self._early.append(message)
            kept += len(message.get("body", b""))
        self._watch_now()
        await self.gone.wait()

    async def _next(self) -> Message:
        message = await self._receive()
        if message["type"] == "http.disconnect":
            self.gone.set()
        elif not message.get("more_body", False):
            self._soon = asyncio.get_running_loop().call_later(_SOON_S, self._watch_now)
        return message

    def _watch_now(self) -> None:
        if self._watching is None and self._soon is not None:
            self._soon.cancel()
            self._watching = asyncio.create_task(self._watch())

    async def _watch(self) -> None:
        while (await self._receive())["type"] != "http.disconnect":
            pass
        self.gone.set()

    async def forget(self) -> None:
        if self._soon is not None:
            self._soon.cancel()
        if self._watching is not None:
            self._watching.cancel()
            with suppress(asyncio.CancelledError):
                await self._watching
