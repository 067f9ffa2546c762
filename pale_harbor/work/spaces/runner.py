"""Fills spaces in the background: those that somebody asked for, those a crash cut off, those whose records changed."""

from functools import partial
from threading import Event, Lock
from typing import Final

import structlog
from psycopg import OperationalError
from psycopg_pool import PoolClosed, PoolTimeout

from pale_harbor.store.spaces.spaces import spaces_to_fill
from pale_harbor.work.running.background import Workers, in_background
from pale_harbor.work.spaces.filling import fill_space
from pale_harbor.work.workbench import Workbench

_SECONDS_BETWEEN_LOOKS: Final = 1.0


class SpaceRunner:
    """A server's fillings, two at a time."""

    def __init__(self, bench: Workbench) -> None:
        self._bench = bench
        self._workers = Workers("space", 2)
        self._ended, self._wanted = Event(), Event()
        self._at_work: set[int] = set()
        self._lock = Lock()

    def start(self) -> None:
        """Begins to look for what is to be filled."""
        in_background("spaces", self._look)

    def wake(self) -> None:
        """Looks now."""
        self._wanted.set()

    def stop(self) -> None:
        """Takes up nothing more; what is under way is taken up again next time."""
        self._ended.set()
        self._wanted.set()
        self._workers.stop()

    def _look(self) -> None:
        while not self._ended.is_set():
            self._wanted.wait(_SECONDS_BETWEEN_LOOKS)
            self._wanted.clear()
            try:
                with self._bench.pool.connection() as connection:
                    spaces = spaces_to_fill(connection)
            except (OperationalError, PoolTimeout, PoolClosed):
                continue
            for space in spaces:
                with self._lock:
                    if space.id in self._at_work or self._ended.is_set():
                        continue
                    self._at_work.add(space.id)
                self._workers.take(partial(self._fill, space.id))

    def _fill(self, space_id: int) -> None:
        try:
            fill_space(self._bench, space_id)
        except Exception as error:  # told in the log; the space stays unfinished and is taken up again
            structlog.get_logger().error("filling broke off", space=space_id, exc_info=error)
            self._ended.wait(_SECONDS_BETWEEN_LOOKS * 5)
        finally:
            with self._lock:
                self._at_work.discard(space_id)
