"""Nobody has all the threads: requests of one address take turns, and none takes for ever."""

import asyncio
from collections.abc import Coroutine
from pathlib import Path
from typing import Any

import orjson
import pytest
from fastapi.testclient import TestClient
from starlette.types import Message, Receive, Scope, Send

from pale_harbor.api import waiting
from pale_harbor.api.app import make_app
from pale_harbor.api.waiting import WhileWaitedFor
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.wanted import check_wanted, still_wanted
from tests.api.alone import alone


class Desk:
    """An application whose requests go on until they are told to, and that remembers who came."""

    def __init__(self) -> None:
        self.begun: list[str] = []
        self.bodies: dict[str, bytes] = {}
        self.go_on: dict[str, asyncio.Event] = {}
        self.came = asyncio.Condition()
        self.wanted: dict[str, bool] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        name = scope["name"]
        body = b""
        while True:
            message = await receive()
            body += message.get("body", b"")
            if not message.get("more_body", False):
                break
        self.bodies[name] = body
        self.go_on[name] = asyncio.Event()
        async with self.came:
            self.begun.append(name)
            self.came.notify_all()
        await self.go_on[name].wait()
        self.wanted[name] = still_wanted()
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": name.encode()})

    async def has_begun(self, *names: str) -> None:
        async with self.came:
            await self.came.wait_for(lambda: set(names) <= set(self.begun))

    def finish(self, name: str) -> None:
        self.go_on[name].set()


class Visit:
    """A request that is sent, may be given up, and hears its answer."""

    def __init__(self, visits: WhileWaitedFor, name: str, address: str = "one", path: str = "/api/collections") -> None:
        self.heard: list[Message] = []
        self.sent: asyncio.Queue[Message] = asyncio.Queue()
        self.sent.put_nowait({"type": "http.request", "body": f"{name} ".encode(), "more_body": True})
        self.sent.put_nowait({"type": "http.request", "body": b"asks"})
        scope: dict[str, Any] = {"type": "http", "path": path, "client": (address, 1), "name": name, "headers": []}
        self.task = asyncio.ensure_future(visits(scope, self.sent.get, self._hear))

    async def _hear(self, message: Message) -> None:
        self.heard.append(message)

    def leave(self) -> None:
        self.sent.put_nowait({"type": "http.disconnect"})

    @property
    def status(self) -> int:
        return self.heard[0]["status"]


def played(story: Coroutine[Any, Any, None]) -> None:
    async def in_time() -> None:
        async with asyncio.timeout(20):
            await story

    alone(in_time())


async def settled() -> None:
    """Everything that can go on without anybody doing anything has."""
    for _ in range(50):
        await asyncio.sleep(0)


def test_one_address_has_so_many_turns_and_the_next_one_waits_for_an_end():
    async def story() -> None:
        desk = Desk()
        visits = WhileWaitedFor(desk, MemoryBudget(), at_once=2)
        own = [Visit(visits, name) for name in "abcd"]
        await desk.has_begun("a", "b")
        await settled()
        assert desk.begun == ["a", "b"]
        desk.finish("b")
        await desk.has_begun("c")
        await settled()
        assert desk.begun == ["a", "b", "c"]
        desk.finish("a")
        await desk.has_begun("d")
        desk.finish("c")
        desk.finish("d")
        await asyncio.gather(*(one.task for one in own))
        assert [one.status for one in own] == [200] * 4
        # What was sent while they waited came whole.
        assert desk.bodies == {name: f"{name} asks".encode() for name in "abcd"}

    played(story())


def test_others_and_searches_and_what_is_no_work_wait_for_none_of_it():
    async def story() -> None:
        desk = Desk()
        visits = WhileWaitedFor(desk, MemoryBudget(), at_once=1)
        Visit(visits, "draft")
        await desk.has_begun("draft")
        Visit(visits, "other", address="two")
        Visit(visits, "search", path="/api/collections/coast/search")
        for name, path in (("alive", "/api/alive"), ("health", "/api/health"), ("page", "/coast/ranking")):
            Visit(visits, name, path=path)
        await desk.has_begun("other", "search", "alive", "health", "page")
        waiting = Visit(visits, "search again", path="/api/collections/coast/search")
        await settled()
        assert "search again" not in desk.begun
        desk.finish("search")
        await desk.has_begun("search again")
        for name in desk.begun:
            desk.finish(name)
        await waiting.task

    played(story())


def test_whoever_leaves_the_line_gets_no_turn_and_takes_none():
    async def story() -> None:
        desk = Desk()
        visits = WhileWaitedFor(desk, MemoryBudget(), at_once=1)
        first = Visit(visits, "first")
        await desk.has_begun("first")
        given_up = [Visit(visits, f"given up {number}") for number in range(60)]
        last = Visit(visits, "last")
        await settled()
        for one in given_up:
            one.leave()
        await asyncio.gather(*(one.task for one in given_up))
        desk.finish("first")
        await first.task
        await desk.has_begun("last")
        desk.finish("last")
        await last.task
        assert desk.begun == ["first", "last"]

    played(story())


def test_a_request_whose_handling_is_broken_off_gives_its_turn_back():
    async def story() -> None:
        desk = Desk()
        visits = WhileWaitedFor(desk, MemoryBudget(), at_once=1)
        first, second = Visit(visits, "first"), Visit(visits, "second")
        await desk.has_begun("first")
        await settled()
        second.task.cancel()
        first.task.cancel()
        await asyncio.gather(first.task, second.task, return_exceptions=True)
        third = Visit(visits, "third")
        await desk.has_begun("third")
        desk.finish("third")
        await third.task
        assert third.status == 200

    played(story())


def test_whoever_waits_too_long_is_told_why():
    async def story() -> None:
        desk = Desk()
        visits = WhileWaitedFor(desk, MemoryBudget(), at_once=1, longest_s=0.2)
        Visit(visits, "first")
        await desk.has_begun("first")
        second = Visit(visits, "second")
        await second.task
        assert second.status == 503
        told = orjson.loads(second.heard[1]["body"])
        assert "did not come to its turn within 0.2 s" in told["detail"]
        assert desk.begun == ["first"]

    played(story())


@pytest.mark.parametrize(("longest", "wanted"), [(60.0, True), (0.0, False)])
def test_work_is_wanted_as_long_as_a_request_may_take(longest: float, wanted: bool):
    async def story() -> None:
        desk = Desk()
        visit = Visit(WhileWaitedFor(desk, MemoryBudget(), longest_s=longest), "draft")
        await desk.has_begun("draft")
        desk.finish("draft")
        await visit.task
        assert desk.wanted == {"draft": wanted}

    played(story())


def test_whoever_takes_too_much_memory_is_ended_and_told_so(tmp_path: Path):
    held = [100_000_000]
    budget = MemoryBudget(1_000_000_000, 50_000_000, lambda: held[0])
    app = make_app(page=tmp_path, budget=budget)
    looks: list[bool] = []

    @app.get("/api/heavy")
    def heavy() -> None:
        held[0] += 50_000_001
        looks.append(still_wanted())
        budget.look()
        check_wanted()

    with TestClient(app, base_url="http://127.0.0.1:7340") as client:
        refused = client.get("/api/heavy")
        assert (refused.status_code, looks) == (503, [True])
        assert refused.json()["detail"].startswith("This took more than 50 MB of memory")
        # All together are told apart from one.
        held[0] = 1_000_000_001
        budget.look()
        refused = client.get("/api/heavy")
        assert refused.json()["detail"].startswith("The server holds 1,000 MB of memory, and may hold 1,000 MB.")
        assert looks == [True]
        # Whether it lives is told all the same.
        assert client.get("/api/alive").status_code == 200


@pytest.mark.parametrize("watched", [False, True])
def test_what_is_answered_soon_is_not_watched(watched: bool, monkeypatch: pytest.MonkeyPatch):
    """Of a request that is answered at once, nobody looks whether its visitor left; of one that takes longer, somebody
    does."""
    looks: list[str] = []
    monkeypatch.setattr(waiting, "_SOON_S", 0.0 if watched else 30.0)

    async def app(_scope: Scope, receive: Receive, send: Send) -> None:
        await receive()
        # So long that whoever is to begin looking has begun.
        for _ in range(5):
            await asyncio.sleep(0)
        await send({"type": "http.response.start", "status": 200, "headers": []})

    async def receive() -> Message:
        looks.append("look")
        if len(looks) > 1:
            await asyncio.Event().wait()
        return {"type": "http.request", "body": b""}

    async def send(_message: Message) -> None:
        pass

    scope: dict[str, Any] = {"type": "http", "path": "/api/collections", "client": ("one", 1), "headers": []}
    alone(WhileWaitedFor(app, MemoryBudget())(scope, receive, send))
    assert len(looks) == (2 if watched else 1)
