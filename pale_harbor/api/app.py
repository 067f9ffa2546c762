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
from pale_harbor.api.below import TakesOff
from pale_harbor.api.chains import routes as chains
from pale_harbor.api.chains import word_lists
from pale_harbor.api.collections import routes as collections
from pale_harbor.api.delivery import past
from pale_harbor.api.delivery import routes as delivery
from pale_harbor.api.delivery.endpoint import WorldFirst, endpoint_of
from pale_harbor.api.document import document_of
from pale_harbor.api.following import routes as following
from pale_harbor.api.guard import Guard
from pale_harbor.api.imports import routes as imports
from pale_harbor.api.judging import judged, tasks
from pale_harbor.api.measuring import routes as measuring
from pale_harbor.api.models import Alive, Health, MemoryState
from pale_harbor.api.page import serve_page
from pale_harbor.api.people import coming_in, elsewhere, everybody
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
from pale_harbor.work.people.provider import Provider
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.room import too_little_room
from pale_harbor.work.running.timed import hear_times
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
    following,
    chains,
    word_lists,
    spaces,
    judged,
    tasks,
    measuring,
    tuning,
    delivery,
    past,
    command,
    coming_in,
    elsewhere,
    everybody,
    events,
)


def make_app(
    workbench: Workbench | None = None,
    page: Path = PAGE,
    commands: command.Commands | None = None,
    local_key: str | None = None,
    names: Iterable[str] = (),
    below: str = "",
    provider: Provider | None = None,
    *,
    budget: MemoryBudget | None = None,
    needs_sign_in: bool = False,
    searches_only: bool = False,
    changes_days: int | None = None,
) -> FastAPI:
    """The app over a workbench; without one only its OpenAPI document is of use.

    commands: carries out commands. local_key: whoever shows it is at this machine, and keeps the installation.
    names: beside those of loopback, by which the server is asked. below: the path that a proxy has before its
    addresses, taken off or not. provider: who says elsewhere who people are. budget: of memory, by what the machine
    has where it is None. needs_sign_in: whether nobody is let in without, even where nobody is known. searches_only:
    whether another server changes what is changed. changes_days: for how long it is kept who changed what, None for as
    long as there is data.
    """

    budget = budget or MemoryBudget()
    server = (
        None if workbench is None else Server(workbench, budget, searches_only=searches_only, changes_days=changes_days)
    )
    watched = Watched()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncGenerator[None]:
        if server is not None:
            await to_thread.run_sync(server.begin)
        budget.start()
        end_hearing = hear_times(watched.hear)
        app.state.ready = True
        yield
        end_hearing()
        budget.stop()
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
        # Nobody elsewhere is told of requests, whatever the environment says.
        telemetry={"tracing": False, "metrics": False, "logs": False, "auto_configure": False},
    )
    app.state.server = server
    app.state.ready = False
    # A thread of their own for those who ask whether all is well.
    # Of the cookie: another installation below the same host has its own.
    app.state.below = below
    app.state.provider = provider
    app.state.searches_only = searches_only
    app.state.looking = CapacityLimiter(1)
    app.state.commands = commands
    who = Who(None if workbench is None else workbench.pool, local_key, needs_sign_in=needs_sign_in)
    app.state.who = who
    install_problem_handlers(app)
    # The quickest level: mostly the page and the server are on one machine.
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=1)
    app.add_middleware(WhileWaitedFor, budget=budget)
    app.add_middleware(WhoAsks, who=who)
    if server is not None:
        app.add_middleware(WorldFirst, endpoint=endpoint_of(server.delivery, budget))
    app.add_middleware(Guard, names=names)
    app.add_middleware(NoStalledReaders)
    app.state.watched = watched
    app.add_middleware(CountsRequests, watched=watched)
    app.add_middleware(TakesOff, below=below)
    for room in (_own, *ROOMS):
        app.include_router(room if isinstance(room, APIRouter) else room.router, prefix="/api")
    # Where watchers look for it, whatever they watch.
    app.include_router(watching.router)
    serve_page(app, page, below)
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
        return Health(started=False, ready=False, process=os.getpid(), version=__version__, detail="no workbench")
    await to_thread.run_sync(answers, str(server.bench.pool.conninfo), 2, limiter=request.app.state.looking)
    short = too_little_room(server.bench.index_folder)
    started = bool(request.app.state.ready)
    return Health(
        started=started,
        ready=started and short is None,
        process=os.getpid(),
        version=__version__,
        detail=short or "the database answers",
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
