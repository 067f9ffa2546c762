"""What a watcher reads: requests, memory, jobs and files, as OpenMetrics text (by the package prometheus-client)."""

from collections.abc import Iterator
from time import perf_counter
from typing import Final

import psutil
from fastapi import Request, Response
from prometheus_client import CollectorRegistry, Counter, Histogram
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, Metric
from prometheus_client.openmetrics.exposition import CONTENT_TYPE_LATEST, generate_latest
from prometheus_client.registry import Collector
from psycopg import OperationalError
from psycopg_pool import PoolTimeout
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from pale_harbor import __version__
from pale_harbor.api.routes import guarded_router
from pale_harbor.api.server_state import Bench, Serving
from pale_harbor.store.ranking.past_queries import past_queries_counted
from pale_harbor.store.running.jobs import jobs_counted
from pale_harbor.store.spaces.spaces import spaces_behind
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.running.room import free_bytes
from pale_harbor.work.running.timed import Work
from pale_harbor.work.workbench import Workbench

router = guarded_router()

# From a key press to a request's end.
_BOUNDS_S: Final = (0.01, 0.03, 0.1, 0.3, 1.0, 3.0, 10.0, 60.0, 600.0)
_BOUNDS_OF_PARTS_S: Final = (0.000_3, 0.001, 0.003, 0.01, 0.03, 0.1, 0.3, 1.0, 10.0)
# A request that no endpoint answers: the page's files, and addresses that lead nowhere.
_NO_ENDPOINT: Final = "none"


class Watched:
    """Counts and times requests by endpoint: these have names of their own, so that no text of a user is told."""

    def __init__(self) -> None:
        self.registry = CollectorRegistry()
        self.requests = Counter(
            "paleharbor_requests", "Requests answered.", ["endpoint", "status"], registry=self.registry
        )
        self.seconds = Histogram(
            "paleharbor_request_seconds",
            "From a request's first byte to its answer's last one.",
            ["endpoint"],
            buckets=_BOUNDS_S,
            registry=self.registry,
        )
        parts = Histogram(
            "paleharbor_search_part_seconds",
            "What a search does, part by part.",
            ["part"],
            buckets=_BOUNDS_OF_PARTS_S,
            registry=self.registry,
        )
        builds = Histogram(
            "paleharbor_build_seconds",
            "What is made once and kept: indexes of fields read through chains, and slabs joined of several.",
            ["what"],
            buckets=_BOUNDS_S,
            registry=self.registry,
        )
        self._timed = {"search": parts, "build": builds}

    def hear(self, work: Work, part: str, seconds: float) -> None:
        """A part of some work was done."""
        self._timed[work].labels(part).observe(seconds)

    def note(self, endpoint: str, status: int, seconds: float) -> None:
        """A request was answered."""
        self.requests.labels(endpoint, str(status)).inc()
        self.seconds.labels(endpoint).observe(seconds)


class CountsRequests:
    """Notes every request that is answered."""

    def __init__(self, app: ASGIApp, watched: Watched) -> None:
        self._app, self._watched = app, watched

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        started, status = perf_counter(), 500

        async def send_noted(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = int(message["status"])
            await send(message)

        try:
            await self._app(scope, receive, send_noted)
        finally:
            # A stream of events lasts as long as its page is open, which is nobody's wait.
            endpoint = getattr(scope.get("route"), "name", None) or _NO_ENDPOINT
            if endpoint != "events":
                self._watched.note(endpoint, status, perf_counter() - started)


class _State(Collector):
    """What is so at the moment of asking."""

    def __init__(self, bench: Workbench, delivery: Delivery) -> None:
        self._bench, self._delivery = bench, delivery

    def collect(self) -> Iterator[Metric]:
        process = psutil.Process()
        yield _gauge("paleharbor_resident_bytes", "Memory of the process.", process.memory_info().rss)
        yield _gauge("paleharbor_free_bytes", "Room on the disk of the data.", free_bytes(self._bench.index_folder))
        yield _gauge("paleharbor_open_files", "Files that are open.", process.num_fds())
        memory = GaugeMetricFamily("paleharbor_cache_bytes", "Memory of each cache.", labels=["cache"])
        for cache in self._bench.memory.state():
            memory.add_metric([cache.name], cache.held_bytes)
        yield memory
        past = self._delivery.past
        yield _gauge("paleharbor_asked_waiting", "What visitors asked that is not kept yet.", past.waiting)
        yield CounterMetricFamily("paleharbor_asked_lost", "What visitors asked that could not be kept.", past.lost)
        yield from self._of_database()
        version = GaugeMetricFamily("paleharbor_version", "The version that runs.", labels=["version"])
        version.add_metric([__version__], 1)
        yield version

    def _of_database(self) -> Iterator[Metric]:
        jobs = GaugeMetricFamily("paleharbor_jobs", "Long work, by kind and state.", labels=["kind", "state"])
        answers = 1
        try:
            with self._bench.pool.connection() as connection:
                for kind, state, count in jobs_counted(connection):
                    jobs.add_metric([kind, state], count)
                behind, past = spaces_behind(connection), past_queries_counted(connection)
            yield _gauge("paleharbor_spaces_behind", "Filled spaces with records that changed since.", behind)
            yield _gauge("paleharbor_past_queries", "Past queries that are kept.", past)
        except (OperationalError, PoolTimeout):
            answers = 0
        yield _gauge("paleharbor_database_answers", "Whether the database answers.", answers)
        yield jobs


def _gauge(name: str, says: str, value: float) -> GaugeMetricFamily:
    return GaugeMetricFamily(name, says, value=value)


@router.get("/metrics", response_class=Response)
def metrics(request: Request, bench: Bench, server: Serving) -> Response:
    """Requests, memory, jobs and files as OpenMetrics text."""
    watched: Watched = request.app.state.watched
    # What is so now is added for this answer alone.
    now = CollectorRegistry()
    now.register(_State(bench, server.delivery))
    counted, state = generate_latest(watched.registry), generate_latest(now)
    return Response(counted.removesuffix(b"# EOF\n") + state, media_type=CONTENT_TYPE_LATEST)
