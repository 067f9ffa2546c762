"""The application: endpoints below /api, the built page everywhere else."""

import os
from collections.abc import AsyncGenerator, Iterable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Final

import psutil
from anyio import CapacityLimiter, to_thread
from fastapi import APIRouter, FastAPI, Request
from starlette.middleware.gzip import GZipMiddleware

from pale_harbor import __version__
from pale_harbor.api import command, events, watching
from pale_harbor.api.chains import routes as chains
from pale_harbor.api.chains import word_lists
from pale_harbor.api.collections import routes as collections
from pale_harbor.api.document import document_of
from pale_harbor.api.guard import Guard
from pale_harbor.api.imports import routes as imports
from pale_harbor.api.judging import judged, tasks
from pale_harbor.api.measuring import routes as measuring
from pale_harbor.api.models import Alive, Health, MemoryState
from pale_harbor.api.page import serve_page
from pale_harbor.api.people import coming_in, everybody
from pale_harbor.api.problems import install_problem_handlers
from pale_harbor.api.ranking import completions, corrections, drafts
from pale_harbor.api.ranking import routes as ranking
from pale_harbor.api.records import routes as records
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench
from pale_harbor.api.spaces import routes as spaces
from pale_harbor.api.stalled import NoStalledReaders
from pale_harbor.api.tuning import routes as tuning
from pale_harbor.api.waiting import WhileWaitedFor
from pale_harbor.api.watching import CountsRequests, Watched
from pale_harbor.api.who import Who, WhoAsks
from pale_harbor.settings import ROOT
from pale_harbor.store.database import answers
from pale_harbor.work.server import Server
from pale_harbor.work.workbench import Workbench

PAGE = ROOT / "frontend" / "dist"
# Routes are tried in turn, and a router within a router tries its own once more: searches come first.
ROOMS: Final = (
    ranking,
    completions,
    corrections,
    drafts,
    collections,
    records,
    imports,
    chains,
    word_lists,
    spaces,
    judged,
    tasks,
    measuring,
    tuning,
    command,
    coming_in,
    everybody,
    events,
)


def make_app(
    workbench: Workbench | None = None,
    page: Path = PAGE,
    commands: command.Commands | None = None,
    local_key: str | None = None,
    names: Iterable[str] = (),
    *,
    needs_sign_in: bool = False,
) -> FastAPI:
    """The app over a workbench; without one only its OpenAPI document is of use.

    commands: carries out commands. local_key: whoever shows it is at this machine, and keeps the installation.
    names: beside those of loopback, by which the server is asked. needs_sign_in: whether nobody is let in without, even
    where nobody is known.
    """

    server = None if workbench is None else Server(workbench)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncGenerator[None]:
        if server is not None:
            await to_thread.run_sync(server.begin)
        app.state.ready = True
        yield
        if server is not None:
            server.end()

    app = FastAPI(
        title="Pale Harbor",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        generate_unique_id_function=lambda route: route.name,
    )
    app.state.server = server
    app.state.ready = False
    # A thread of their own for those who ask whether all is well.
    app.state.looking = CapacityLimiter(1)
    app.state.commands = commands
    who = Who(None if workbench is None else workbench.pool, local_key, needs_sign_in=needs_sign_in)
    app.state.who = who
    install_problem_handlers(app)
    # The quickest level: mostly the page and the server are on one machine.
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=1)
    app.add_middleware(WhileWaitedFor)
    app.add_middleware(WhoAsks, who=who)
    app.add_middleware(Guard, names=names)
    app.add_middleware(NoStalledReaders)
    app.state.watched = watched = Watched()
    app.add_middleware(CountsRequests, watched=watched)
    for room in (_own, *ROOMS):
        app.include_router(room if isinstance(room, APIRouter) else room.router, prefix="/api")
    # Where watchers look for it, whatever they watch.
    app.include_router(watching.router)
    serve_page(app, page)
    app.openapi = lambda: document_of(app)
    return app


_own = guarded_router()


@_own.get("/alive", name="alive")
async def _alive() -> Alive:
    """Whether the server is there at all: answered without waiting for anything."""
    return Alive(process=os.getpid(), version=__version__)


@_own.get("/health", name="health")
async def _health(request: Request) -> Health:
    """Whether the server can work now: asked beside all work, however much there is."""
    server: Server | None = request.app.state.server
    if server is None:
        return Health(ready=False, process=os.getpid(), version=__version__, detail="no workbench")
    await to_thread.run_sync(answers, str(server.bench.pool.conninfo), 2, limiter=request.app.state.looking)
    return Health(
        ready=bool(request.app.state.ready), process=os.getpid(), version=__version__, detail="the database answers"
    )


@_own.get("/memory", name="memory")
def _memory(bench: Bench) -> MemoryState:
    """What is held in memory, the most first: the server's state line."""
    process = psutil.Process()
    return MemoryState(
        resident_bytes=process.memory_info().rss,
        open_files=process.num_fds(),
        most_open_files=process.rlimit(psutil.RLIMIT_NOFILE)[0],
        caches=bench.memory.state(),
    )
