"""What a running server has beside its workbench: jobs that are done, uploads, what is told of its own accord."""

from typing import Final

from pale_harbor.formats.records import ImportPlan
from pale_harbor.store.collections.collections import all_collections
from pale_harbor.store.database import Pool
from pale_harbor.store.records.records import record_count
from pale_harbor.store.spaces.spaces import want_followed
from pale_harbor.work.chains.consequences import Reckonings
from pale_harbor.work.collections.tidying import tidy
from pale_harbor.work.imports.importing import begin_import, imports_done
from pale_harbor.work.imports.sources import RowSource
from pale_harbor.work.imports.uploads import Uploads
from pale_harbor.work.measuring.outside import askings_done
from pale_harbor.work.running.processes import ELSEWHERE_FROM
from pale_harbor.work.running.telling import Telling
from pale_harbor.work.running.worker import JobRunner
from pale_harbor.work.spaces.filling import fillings_done
from pale_harbor.work.tuning.ledger import ledgers_done
from pale_harbor.work.tuning.remedies import remedies_done
from pale_harbor.work.tuning.simulating import first_tunings_begun
from pale_harbor.work.tuning.tuning import tunings_done
from pale_harbor.work.warm_up import warm_up
from pale_harbor.work.workbench import Workbench

_UPLOADS: Final = "uploads"


class Server:
    """All that goes on beside requests; `begin` and `end` enclose them."""

    def __init__(self, bench: Workbench) -> None:
        self.bench = bench
        self.uploads = Uploads(bench.index_folder.parent / _UPLOADS)
        self.telling = Telling(str(bench.pool.conninfo))
        # Sources of imports as they were given: what is secret in them is not kept.
        self._sources: dict[int, RowSource] = {}
        self.reckonings = Reckonings(bench)
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
            },
            before=lambda: _follow(bench.pool),
        )
        self.reckonings.runner = self.jobs

    def begin(self) -> None:
        """Makes everything ready, and takes up what was cut off."""
        if self.bench.processes is not None and _is_large(self.bench.pool):
            self.bench.processes.begin()
        warm_up(self.bench)
        tidy(self.bench.pool, self.bench.index_folder, self.uploads)
        self.telling.start()
        self.jobs.start()

    def end(self) -> None:
        """Takes up nothing more."""
        self.jobs.stop()
        self.telling.stop()
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
