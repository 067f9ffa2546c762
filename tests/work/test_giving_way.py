"""Who goes first: long work lets a search end, but never waits for long, and a search never waits for itself."""

import asyncio
from concurrent.futures import ThreadPoolExecutor
from threading import Event, Thread

import pytest
from starlette.types import Message, Receive, Scope, Send

from pale_harbor.api.waiting import WhileWaitedFor
from pale_harbor.work.running import giving_way
from pale_harbor.work.running.giving_way import give_way, going_first
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.wanted import check_wanted

AN_HOUR = 3_600


def test_long_work_goes_on_once_the_search_has_ended(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(giving_way, "LONGEST_S", AN_HOUR)
    order: list[str] = []
    waits = Event()
    wait_for = giving_way.IN_HAND.changed.wait_for

    def waiting(*of: object) -> bool:
        waits.set()
        return wait_for(*of)  # pyright: ignore[reportArgumentType]

    monkeypatch.setattr(giving_way.IN_HAND.changed, "wait_for", waiting)

    def long_work() -> None:
        check_wanted()
        order.append("work")

    with going_first():
        other = Thread(target=long_work)
        other.start()
        assert waits.wait(30)
        order.append("search")
    other.join(30)
    assert order == ["search", "work"]


def test_long_work_does_not_wait_for_long(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(giving_way, "LONGEST_S", 0.0)
    ended = Event()

    def long_work() -> None:
        give_way()
        ended.set()

    with going_first():
        Thread(target=long_work).start()
        assert ended.wait(30)


def test_what_goes_first_waits_for_nothing_of_its_kind(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr(giving_way, "LONGEST_S", AN_HOUR)
    with going_first():
        with going_first():
            give_way()
        give_way()
    give_way()


@pytest.mark.parametrize(
    ("path", "goes_first"),
    [
        ("/api/collections/saltmere/search", True),
        ("/api/collections/saltmere/judged/visitors/turns", False),
        ("/api/collections/saltmere/searches", False),
    ],
)
def test_searches_go_first_and_other_requests_do_not(path: str, goes_first: bool):
    seen: list[int] = []

    async def app(_scope: Scope, _receive: Receive, _send: Send) -> None:
        seen.append(giving_way.IN_HAND.count)

    async def receive() -> Message:
        return {"type": "http.request", "body": b"", "more_body": False}

    async def send(_message: Message) -> None:
        pass

    # In a thread of its own: a browser's tests may have a loop running in this one.
    with ThreadPoolExecutor(1) as elsewhere:
        visit = WhileWaitedFor(app, MemoryBudget())({"type": "http", "path": path}, receive, send)
        elsewhere.submit(lambda: asyncio.run(visit)).result()
    seen.append(giving_way.IN_HAND.count)
    assert seen == [int(goes_first), 0]
