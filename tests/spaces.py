"""Spaces of tests: made and filled, and a service that stands in for one over HTTP."""

import threading
from collections.abc import Generator
from contextlib import contextmanager
from typing import Any

import uvicorn

from pale_harbor.api.spaces.embedder import Moods, make_embedder
from pale_harbor.formats.space_document import space_document
from pale_harbor.store.spaces.spaces import Space, space_with_id
from pale_harbor.work.spaces import making
from pale_harbor.work.spaces.filling import fill_space
from pale_harbor.work.workbench import Workbench

COLLECTION = "coast"


def made(bench: Workbench, name: str, source: dict[str, Any], **more: Any) -> Space:
    """A new space, not filled yet."""
    document = {"source": source, "fields": ["title", "text"], **more}
    if source["kind"] == "brought":
        document = {"source": source, **more}
    return making.make(bench, COLLECTION, name, space_document(document))


def filled(bench: Workbench, name: str, source: dict[str, Any], **more: Any) -> Space:
    """A new space, filled as far as it goes."""
    return refilled(bench, made(bench, name, source, **more))


def refilled(bench: Workbench, space: Space) -> Space:
    """The space after another filling."""
    assert fill_space(bench, space.id)
    with bench.pool.connection() as connection:
        found = space_with_id(connection, space.id)
    assert found is not None
    return found


@contextmanager
def embedder(moods: Moods | None = None) -> Generator[str]:
    """The stand-in on a port of its own; gives its address."""
    server = uvicorn.Server(uvicorn.Config(make_embedder(moods), port=0, log_config=None, access_log=False))
    ready = threading.Event()
    announced = server.startup

    async def startup(*arguments: Any, **named: Any) -> None:
        await announced(*arguments, **named)
        ready.set()

    server.startup = startup
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    assert ready.wait(20)
    port = server.servers[0].sockets[0].getsockname()[1]
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(20)
