"""The application: endpoints below /api, the built page everywhere else."""

import os
from collections.abc import AsyncGenerator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path

import psutil
import structlog
from anyio import to_thread
from fastapi import APIRouter, FastAPI, HTTPException, Request, Response
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from pale_harbor import __version__
from pale_harbor.api import (
    chains,
    collections,
    command,
    comparing,
    imports,
    judged,
    judging,
    ranking,
    records,
    spaces,
    word_lists,
)
from pale_harbor.api.models import Health, MemoryState
from pale_harbor.api.problems import MEDIA_TYPE, Problem, install_problem_handlers
from pale_harbor.api.server_state import Bench
from pale_harbor.settings import ROOT
from pale_harbor.work.consequences import Reckonings
from pale_harbor.work.import_runner import ImportRunner
from pale_harbor.work.outside import end_cut_off_askings
from pale_harbor.work.space_runner import SpaceRunner
from pale_harbor.work.tidying import tidy
from pale_harbor.work.uploads import LARGEST_UPLOAD, Uploads
from pale_harbor.work.warm_up import warm_up
from pale_harbor.work.workbench import Workbench

PAGE = ROOT / "frontend" / "dist"
LARGEST_BODY = 2_000_000
# Where more may come in, by the last part of the path.
_LARGEST_AT = {
    "uploads": LARGEST_UPLOAD,
    "records": 64_000_000,
    "mend": 64_000_000,
    "thesaurus": 20_000_000,
    "files": 64_000_000,
    "list": 64_000_000,
    "run": 64_000_000,
}

# Nothing is fetched from outside, nothing frames the page. The theme's inline styles are ours.
_CONTENT_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


def make_app(
    workbench: Workbench | None = None, page: Path = PAGE, commands: command.Commands | None = None
) -> FastAPI:
    """The app over a workbench; without one only its OpenAPI document is of use. commands: carries out commands."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncGenerator[None]:
        if workbench is not None:
            await to_thread.run_sync(warm_up, workbench)
            await to_thread.run_sync(tidy, workbench.pool, workbench.index_folder, app.state.uploads)
            await to_thread.run_sync(app.state.runner.take_up)
            await to_thread.run_sync(end_cut_off_askings, workbench)
            app.state.spaces.start()
        app.state.ready = True
        yield
        if workbench is not None:
            app.state.runner.stop()
            app.state.spaces.stop()

    app = FastAPI(
        title="Pale Harbor",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        responses={422: {"model": Problem}, 404: {"model": Problem}},
        generate_unique_id_function=lambda route: route.name,
    )
    app.state.workbench = workbench
    app.state.ready = False
    app.state.commands = commands
    if workbench is not None:
        app.state.runner = ImportRunner(workbench.pool)
        app.state.spaces = SpaceRunner(workbench)
        app.state.reckonings = Reckonings(workbench)
        app.state.uploads = Uploads(workbench.index_folder.parent / "uploads")
    install_problem_handlers(app)
    # The quickest level: mostly the page and the server are on one machine.
    app.add_middleware(GZipMiddleware, minimum_size=2_000, compresslevel=1)
    # A name that a stranger points at this machine must not reach the app (DNS rebinding).
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "testserver"])
    app.middleware("http")(_guarded)
    api = APIRouter(prefix="/api")
    api.add_api_route("/memory", _memory, response_model=MemoryState, name="memory")
    api.add_api_route("/health", _health, response_model=Health, name="health")
    for room in (
        collections,
        records,
        imports,
        chains,
        word_lists,
        ranking,
        spaces,
        judged,
        judging,
        comparing,
        command,
    ):
        api.include_router(room.router)
    app.include_router(api)
    _serve_page(app, page)
    return app


def _health(request: Request) -> Health:
    """Whether the server can work now."""
    workbench: Workbench | None = request.app.state.workbench
    if workbench is None:
        return Health(ready=False, process=os.getpid(), version=__version__, detail="no workbench")
    with workbench.pool.connection(timeout=2) as connection:
        connection.execute("select 1")
    return Health(
        ready=bool(request.app.state.ready), process=os.getpid(), version=__version__, detail="the database answers"
    )


def _memory(bench: Bench) -> MemoryState:
    """What is held in memory, the most first: the server's state line."""
    return MemoryState(resident_bytes=psutil.Process().memory_info().rss, caches=bench.memory.state())


async def _guarded(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
    """Refuses bodies that are too large or of unknown length; says what the page may load."""
    # A page of another site must not change anything here (Fetch Metadata, W3C).
    if request.method not in ("GET", "HEAD") and request.headers.get("sec-fetch-site") in ("cross-site", "same-site"):
        problem = Problem(title="Not allowed", status=403, detail="Pages of other sites may not change anything here.")
        return JSONResponse(problem.model_dump(), 403, media_type=MEDIA_TYPE)
    length = request.headers.get("content-length", "0")
    has_body = request.method in ("POST", "PUT", "PATCH")
    chunked = "transfer-encoding" in request.headers
    largest = _largest(request.url.path) if has_body else 0
    if has_body and (chunked or not length.isdigit() or int(length) > largest):
        problem = Problem(
            title="Too large",
            status=413,
            detail=f"A request may hold {largest:,} bytes at most here, and must say its Content-Length.",
        )
        return JSONResponse(problem.model_dump(), 413, media_type=MEDIA_TYPE)
    response = await call_next(request)
    response.headers.setdefault("Content-Security-Policy", _CONTENT_POLICY)
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    return response


def _largest(path: str) -> int:
    """How many bytes a request to a path may hold."""
    *_, room, last = ["", *path.split("/")]
    return _LARGEST_AT.get(last) or (20_000_000 if room == "word-lists" else LARGEST_BODY)


def _serve_page(app: FastAPI, page: Path) -> None:
    if not (page / "index.html").exists():
        structlog.get_logger().warning("the page is not built", folder=str(page))
        return
    app.mount("/assets", StaticFiles(directory=page / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def place(path: str) -> FileResponse:  # pyright: ignore[reportUnusedFunction]
        """The page, whatever the place: it reads its address itself."""
        if path.startswith("api/"):
            raise HTTPException(404, "There is no such endpoint.")
        file = page / path
        if path in ("favicon.svg",) and file.exists():
            return FileResponse(file)
        # The page names its parts by content: only its first file must be asked for anew.
        return FileResponse(page / "index.html", headers={"Cache-Control": "no-cache"})
