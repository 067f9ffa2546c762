"""Processes that tests watch: what they are asked for is done here instead."""

from typing import Any

from pale_harbor.store.database import Pool
from pale_harbor.work.running.processes import Followed, Processes


class WatchedProcesses(Processes):
    """Remembers the tasks it was asked for, and whether it was to be ready before the first one."""

    def __init__(self, pool: Pool) -> None:
        super().__init__(str(pool.conninfo))
        self.pool = pool
        self.asked: list[object] = []
        self.begun = False

    def begin(self) -> None:
        self.begun = True

    def run_followed(self, follow: Any, task: Any, *args: Any, **named: Any) -> Any:
        self.asked.append(task)
        with self.pool.connection() as connection:
            return task(connection, Followed(follow), *args, **named)
