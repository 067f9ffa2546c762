"""One function done for many things in processes of its own, the results in their order: for files that take long to be
read."""

import multiprocessing
import os
from collections import deque
from collections.abc import Callable, Generator, Iterable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from typing import Final, TypeVar

from pale_harbor.errors import Unavailable
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.processes import end_with_parent, result_of
from pale_harbor.work.running.processors import STANDS_BACK_BY, allowed_processors, use_all
from pale_harbor.work.running.wanted import check_wanted

A = TypeVar("A")
T = TypeVar("T")

_MOST_PROCESSES: Final = 4
# Things that wait for each process, so that none is idle and memory is bounded.
_AHEAD: Final = 3


def in_order(task: Callable[[A], T], each: Iterable[A]) -> Generator[T]:
    """What a function of a module gives for each thing, in their order, as many at a time as there are processors.

    Things and results go from process to process. Raises what the first that fails raises, Unavailable where a process
    was killed, Cancelled once nobody waits for it.
    """
    processors = allowed_processors()
    count = min(_MOST_PROCESSES, max(1, len(processors)))
    pool = ProcessPoolExecutor(
        count, mp_context=multiprocessing.get_context("forkserver"), initializer=_begin, initargs=(processors,)
    )
    waiting: deque[Future[T]] = deque()
    try:
        for one in each:
            waiting.append(pool.submit(task, one))
            if len(waiting) >= _AHEAD * count:
                yield result_of(waiting.popleft(), check_wanted)
        while waiting:
            yield result_of(waiting.popleft(), check_wanted)
    except BrokenProcessPool as error:
        raise Unavailable("A process that worked on this was ended, perhaps for want of memory.") from error
    finally:
        pool.shutdown(wait=False, cancel_futures=True)


def _begin(processors: frozenset[int]) -> None:
    # Whoever searches goes first.
    os.nice(STANDS_BACK_BY)
    use_all(processors)
    in_background("whose", end_with_parent)
