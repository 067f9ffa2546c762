"""One stream of events to the page: what jobs come to, and what has a new revision."""

import asyncio
from collections.abc import AsyncGenerator
from typing import Any, Final

import orjson
from fastapi import Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Serving
from pale_harbor.api.who import Who
from pale_harbor.work.people.visiting import Guest
from pale_harbor.work.running.telling import Notice

router = guarded_router()

# A job tells of itself more often than anybody can read.
_SECONDS_BETWEEN_EVENTS: Final = 0.25
_SECONDS_BETWEEN_SIGNS: Final = 15
_MOST_UNSENT: Final = 1_000


@router.get("/events", response_class=EventSourceResponse)
async def events(request: Request, serving: Serving) -> EventSourceResponse:
    """Server-sent events: {"subject": "jobs", "kind", "id", "collection", "state"}, {"subject": "records" or "judging",
    "id", "revision"}, {"subject": "said", "id"} of a judged set, and {"subject": "again"} where some may have been
    missed."""
    who: Who = request.app.state.who
    loop = asyncio.get_running_loop()
    waiting: dict[tuple[str, Any], Notice] = {}
    something = asyncio.Event()

    def hear(notice: Notice) -> None:
        def keep() -> None:
            if len(waiting) < _MOST_UNSENT:
                # Of what came twice meanwhile the later counts.
                waiting[notice["subject"], notice.get("id")] = notice
            else:
                waiting.clear()
                waiting["again", None] = {"subject": "again"}
            something.set()

        loop.call_soon_threadsafe(keep)

    async def told() -> AsyncGenerator[ServerSentEvent]:
        end = serving.telling.add(hear)
        try:
            yield ServerSentEvent(data=orjson.dumps({"subject": "again"}).decode())
            while not await request.is_disconnected():
                await something.wait()
                something.clear()
                some = list(waiting.values())
                waiting.clear()
                # Asked for anew: somebody may have been shut out meanwhile.
                guest = await who.asks(request.scope)
                if not guest.is_somebody:
                    return
                for notice in some:
                    if not _may_hear(guest, notice):
                        continue
                    yield ServerSentEvent(data=orjson.dumps(notice).decode())
                await asyncio.sleep(_SECONDS_BETWEEN_EVENTS)
        finally:
            end()

    return EventSourceResponse(told(), ping=_SECONDS_BETWEEN_SIGNS)


def _may_hear(guest: Guest, notice: Notice) -> bool:
    if guest.is_keeper or notice["subject"] == "again":
        return True
    return notice.get("collection") in guest.collections
