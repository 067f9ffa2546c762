"""Does imports in the background, two at a time; takes up those that a crash cut off."""

from pale_harbor.store.database import Pool
from pale_harbor.store.running.jobs import unfinished_jobs
from pale_harbor.work.imports.importing import run_import
from pale_harbor.work.imports.sources import RowSource
from pale_harbor.work.running.background import Workers


class ImportRunner:
    """A server's imports."""

    def __init__(self, pool: Pool) -> None:
        self.pool = pool
        self._workers = Workers("import", 2)

    def start(self, job_id: int, source: RowSource | None = None) -> None:
        """Does an import as soon as a worker is free."""
        self._workers.take(lambda: run_import(self.pool, job_id, source))

    def take_up(self) -> list[int]:
        """Starts what the server was at when it ended; returns the jobs."""
        with self.pool.connection() as connection:
            cut_off = [job.id for job in unfinished_jobs(connection) if job.by_server]
        for job_id in cut_off:
            self.start(job_id)
        return cut_off

    def stop(self) -> None:
        """Waits for what is under way to be cut off or done; what is left is taken up next time."""
        self._workers.stop()
