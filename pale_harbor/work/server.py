"""What a running server has beside its workbench: jobs that are done, uploads, what is told of its own accord."""

from contextlib import nullcontext
from threading import Event
from typing import Final

import structlog
from psycopg import OperationalError
from psycopg_pool import PoolTimeout

from pale_harbor.formats.records import ImportPlan
from pale_harbor.logs import log_file_named
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool
from pale_harbor.store.following.sources import forget_earlier_of_followed
from pale_harbor.store.people.changes import forget_changes
from pale_harbor.store.records.records import record_count
from pale_harbor.store.spaces.spaces import want_followed
from pale_harbor.work.chains.consequences import Reckonings
from pale_harbor.work.collections.tidying import tidy
from pale_harbor.work.delivery.delivery import Delivery
from pale_harbor.work.delivery.forgetting import forget_past
from pale_harbor.work.following.process import following_process
from pale_harbor.work.growing.estimating import growths_done
from pale_harbor.work.imports.importing import begin_import, imports_done
from pale_harbor.work.imports.sources import RowSource
from pale_harbor.work.imports.uploads import Uploads
from pale_harbor.work.measuring.outside import askings_done, seal_secrets
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.door import the_door
from pale_harbor.work.running.kept_alive import KeptAlive
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.processes import ELSEWHERE_FROM
from pale_harbor.work.running.telling import Notice, Telling
from pale_harbor.work.running.worker import JobRunner
from pale_harbor.work.spaces.filling import fillings_done
from pale_harbor.work.tuning.ledger import ledgers_done
from pale_harbor.work.tuning.remedies import remedies_done
from pale_harbor.work.tuning.simulating import first_tunings_begun
from pale_harbor.work.tuning.tuning import tunings_done
from pale_harbor.work.warm_up import warm_up
from pale_harbor.work.workbench import Workbench

_UPLOADS: Final = "uploads"
_SECONDS_BETWEEN_FORGETTING: Final = 3_600.0


class Server:
    """All that goes on beside requests; `begin` and `end` enclose them. budget: of memory, of which jobs take a part.

    searches_only: whether another server on the same data does the jobs, and changes what is changed. changes_days: for
    how long it is kept who changed what, None for as long as there is data.
    """

    def __init__(
        self,
        bench: Workbench,
        budget: MemoryBudget | None = None,
        *,
        searches_only: bool = False,
        changes_days: int | None = None,
    ) -> None:
        self.bench = bench
        self._changes_days = changes_days
        self._ended = Event()
        self.searches_only = searches_only
        self.uploads = Uploads(bench.index_folder.parent / _UPLOADS)
        self.telling = Telling(str(bench.pool.conninfo))
        # Sources of imports as they were given: what is secret in them is not kept.
        self._sources: dict[int, RowSource] = {}
        self.reckonings = Reckonings(bench)
        self.delivery = Delivery(bench)
        self.jobs = JobRunner(
            bench.pool,
            {
                "import": imports_done(bench.pool, self._sources),
                "filling": fillings_done(bench),
                "asking": askings_done(bench),
                "reading": self.reckonings.doing,
                "tuning": tunings_done(bench),
                "simulating": first_tunings_begun(bench),
                "ledger": ledgers_done(bench),
                "remedies": remedies_done(bench),
                "growing": growths_done(bench),
            },
            before=lambda: _follow(bench.pool),
            within=nullcontext if budget is None else lambda: budget.counted(is_job=True),
        )
        self.reckonings.runner = self.jobs
        self.following: KeptAlive | None = None

    def begin(self) -> None:
        """Makes everything ready, and takes up what was cut off."""
        if self.bench.processes is not None and _is_large(self.bench.pool):
            self.bench.processes.begin()
        warm_up(self.bench)
        self.telling.start()
        if self.searches_only:
            # Another server tidies up and does what is to be done.
            return
        seal_secrets(self.bench)
        tidy(self.bench.pool, self.bench.index_folder, self.uploads)
        self.jobs.start()
        self.following = following_process(self.bench.pool, self.bench.sealing, the_door(), log_file_named())
        self.following.start()
        self.telling.add(self._hear)
        if self._changes_days is not None:
            self.forget_old_changes(self._changes_days)
        in_background("forgetting", self._forget_on_and_on)

    def forget_old_changes(self, days: int) -> None:
        """Forgets who changed what so many days ago."""
        with self.bench.pool.connection() as connection:
            forgotten = forget_changes(connection, days)
        if forgotten:
            structlog.get_logger().info("changes forgotten", count=forgotten, days=days)

    def _forget_on_and_on(self) -> None:
        while not self._ended.wait(_SECONDS_BETWEEN_FORGETTING):
            try:
                if self._changes_days is not None:
                    self.forget_old_changes(self._changes_days)
                forget_past(self.bench.pool)
                self._forget_earlier()
            except (OperationalError, PoolTimeout) as error:
                structlog.get_logger().warning("nothing forgotten", reason=str(error))

    def _hear(self, notice: Notice) -> None:
        if self.following is not None and notice["subject"] == "following":
            self.following.look_soon()

    def _forget_earlier(self) -> None:
        with self.bench.pool.connection() as connection:
            forgotten = forget_earlier_of_followed(connection)
        if forgotten:
            structlog.get_logger().info("earlier states of records that follow a source forgotten", count=forgotten)

    def end(self) -> None:
        """Takes up nothing more."""
        self._ended.set()
        if self.following is not None:
            self.following.stop()
        self.jobs.stop()
        self.telling.stop()
        self.delivery.end()
        if self.bench.processes is not None:
            self.bench.processes.stop()

    def start_import(
        self, collection: str, source: RowSource, plan: ImportPlan, *, asks: bool, tune_start: bool
    ) -> int:
        """Begins an import of a source as it is given, with what is secret in it; returns the job's id."""

        def noted(job_id: int) -> None:
            self._sources[job_id] = source

        job_id = begin_import(
            self.bench.pool, collection, source, plan, by_server=True, asks=asks, tune_start=tune_start, noted=noted
        )
        self.jobs.take(job_id, "import")
        return job_id

    def resume_import(self, job_id: int) -> None:
        """Goes on with an import, from the source as it was kept."""
        self.jobs.take(job_id, "import")


def _is_large(pool: Pool) -> bool:
    """Whether some collection is worked on by other processes: these are there before the first task, then."""
    with pool.connection() as connection:
        return any(record_count(connection, one.id) >= ELSEWHERE_FROM for one in all_collections(connection))


def _follow(pool: Pool) -> None:
    with pool.connection() as connection:
        want_followed(connection)
