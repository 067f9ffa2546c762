"""Answers that nobody takes are given up in time, and no other."""

import asyncio
from collections.abc import AsyncIterator
from typing import Any

import pytest
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import StreamingResponse
from starlette.routing import Route
from starlette.types import Message

from pale_harbor.api.stalled import NoStalledReaders
from tests.api.alone import alone

closed: list[str] = []


async def pieces() -> AsyncIterator[bytes]:
    try:
        for _ in range(3):
            yield b"piece"
    finally:
        closed.append("closed")


async def answer(_: Request) -> StreamingResponse:
    return StreamingResponse(pieces())


APP = Starlette(routes=[Route("/", answer)])


def asked(takes: int, spec: str) -> list[Message]:
    """What was taken of an answer by somebody who takes so many messages and then none."""
    taken: list[Message] = []

    async def send(message: Message) -> None:
        if len(taken) >= takes:
            await asyncio.Event().wait()
        taken.append(message)

    async def receive() -> Message:
        await asyncio.Event().wait()
        raise AssertionError

    scope: dict[str, Any] = {
        "type": "http",
        "asgi": {"spec_version": spec},
        "method": "GET",
        "path": "/",
        "headers": [],
        "root_path": "",
        "scheme": "http",
        "server": ("127.0.0.1", 1),
    }

    async def run() -> None:
        async with asyncio.timeout(20):
            await NoStalledReaders(APP, idle_s=0.1)(scope, receive, send)

    alone(run())
    return taken


@pytest.mark.parametrize("spec", ["2.3", "2.4"])
@pytest.mark.parametrize("takes", [0, 1, 2])
def test_an_answer_that_is_not_taken_is_given_up(takes: int, spec: str):
    assert len(asked(takes, spec)) == takes


@pytest.mark.parametrize("spec", ["2.3", "2.4"])
def test_an_answer_that_is_taken_comes_whole(spec: str):
    body = b"".join(one.get("body", b"") for one in asked(100, spec))
    assert body == b"piece" * 3


def test_what_goes_wrong_within_is_told_as_it_is():
    async def fails(*_: Any) -> Any:
        raise ValueError("no answer")

    async def run() -> None:
        await NoStalledReaders(fails)({"type": "http", "path": "/"}, fails, fails)

    with pytest.RaisesGroup(ValueError, allow_unwrapped=True):
        alone(run())


def test_an_answer_that_somebody_else_ends_is_not_called_stalled():
    async def send(_: Message) -> None:
        await asyncio.Event().wait()

    async def receive() -> Message:
        return {"type": "http.request"}

    async def answers(_scope: Any, _receive: Any, sends: Any) -> None:
        await sends({"type": "http.response.start", "status": 200, "headers": []})

    async def run() -> None:
        visit = asyncio.ensure_future(NoStalledReaders(answers)({"type": "http", "path": "/"}, receive, send))
        await asyncio.sleep(0)
        visit.cancel()
        with pytest.raises(asyncio.CancelledError):
            await visit

    alone(run())
