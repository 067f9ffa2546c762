"""Work beside everything else: the only place that makes threads. What goes wrong in one is told in the log."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Thread
from time import perf_counter

import structlog
from psycopg_pool import PoolClosed

from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.errors import HarborError


def in_background(name: str, work: Callable[[], object]) -> Thread:
    """Does some work in a thread of its own, which ends with the process."""
    thread = Thread(target=_do, args=[name, work], daemon=True, name=name)
    thread.start()
    return thread


class Workers:
    """So many threads that take up work in the order in which it comes."""

    def __init__(self, name: str, count: int) -> None:
        self.name = name
        self._pool = ThreadPoolExecutor(count, thread_name_prefix=name)

    def take(self, work: Callable[[], object]) -> None:
        """Does some work as soon as a thread is free."""
        self._pool.submit(_do, self.name, work)

    def finish(self) -> None:
        """Waits until everything that was taken up is done; nothing more is."""
        self._pool.shutdown(wait=True)

    def stop(self) -> None:
        """Takes up nothing more; what is under way goes on until it ends."""
        self._pool.shutdown(wait=False, cancel_futures=True)


def _do(name: str, work: Callable[[], object]) -> None:
    try:
        with patterns_within_bounds(perf_counter):
            work()
    except HarborError as error:
        structlog.get_logger().warning("work not done", work=name, reason=str(error))
    except PoolClosed:
        # The process is ending: whoever takes the work up finds it as it was left.
        structlog.get_logger().info("work cut off", work=name)
    except Exception as error:  # nobody waits for it: the log is where it is told
        structlog.get_logger().error("work broke off", work=name, exc_info=error)
