"""Heavy work in processes of its own, so that searching keeps its pace beside it.

A task is a function of a module, called with a connection, with its `Errand`, and with its arguments; arguments and
result go from process to process, large things in files.
"""

import gc
import multiprocessing
import os
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from threading import Lock
from time import perf_counter
from typing import Any, Concatenate, Final, ParamSpec, Protocol, TypeVar

import psycopg
from psycopg import Connection

from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.errors import Unavailable
from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.processors import STANDS_BACK_BY, allowed_processors, use_all
from pale_harbor.work.running.wanted import check_wanted, still_wanted

P = ParamSpec("P")
A = TypeVar("A")
T = TypeVar("T")


class Errand(Protocol):
    """What a task hears, and tells."""

    def wanted(self) -> bool:
        """Whether somebody still waits for it."""
        ...

    def came_to(self, step: int) -> None:
        """Tells how far it is."""
        ...


class Here:
    """The errand of a task that is done in this process."""

    def wanted(self) -> bool:
        return still_wanted()

    def came_to(self, step: int) -> None:
        pass


class Followed(Here):
    """The same, with somebody who hears how far it is."""

    def __init__(self, follow: Callable[[int], object]) -> None:
        self._follow = follow

    def came_to(self, step: int) -> None:
        self._follow(step)


# Work on fewer records is done before another process has read its first one.
ELSEWHERE_FROM: Final = 5_000
# Tasks that may wait or run at a time: each has a place that tells it to end.
_PLACES: Final = 256
_SECONDS_BETWEEN_LOOKS: Final = 0.05
# Loaded once, so that a process is there at once.
LOADED: Final = [
    "pale_harbor.work.collections.building",
    "pale_harbor.work.collections.joining",
    "pale_harbor.work.chains.whole_reading",
    "pale_harbor.work.spaces.learning",
    "pale_harbor.work.spaces.open_space",
]


class Processes:
    """So many processes, begun when they are first needed. address: of the database."""

    def __init__(self, address: str, count: int = 2) -> None:
        self._address, self._count = address, count
        self._context = multiprocessing.get_context("forkserver")
        self._context.set_forkserver_preload(LOADED)
        self._ends = self._context.Array("b", _PLACES, lock=False)
        self._steps = self._context.Array("q", _PLACES, lock=False)
        self._free = list(range(_PLACES))
        self._lock = Lock()
        self._pool: ProcessPoolExecutor | None = None

    def begin(self) -> None:
        """Has the processes ready before the first task comes."""
        with self._lock:
            pool = self._opened()
        for _ in range(self._count):
            pool.submit(_do_nothing)

    def run(self, task: Callable[Concatenate[Connection[Any], Errand, P], T], *args: P.args, **named: P.kwargs) -> T:
        """What a task gives. Raises Cancelled once nobody waits for it, Unavailable where its process was killed."""
        return self.run_followed(lambda _step: None, task, *args, **named)

    def run_followed(
        self,
        follow: Callable[[int], object],
        task: Callable[Concatenate[Connection[Any], Errand, P], T],
        *args: P.args,
        **named: P.kwargs,
    ) -> T:
        """As `run`; follow: hears now and then how far the task is, and may raise to end it."""
        return self._result(*self._submitted(task, args, named), follow)

    def side_by_side(
        self,
        task: Callable[[Connection[Any], Errand, A], T],
        each: Sequence[A],
        follow: Callable[[int], object] = lambda _steps: None,
    ) -> list[T]:
        """What a task gives for each, as many at a time as there are processes. Raises what the first one raises.

        follow: hears now and then how many steps all have come, and may raise to end them.
        """
        begun: list[tuple[Future[T], int]] = []
        came_to = [0] * len(each)

        def look(_step: int) -> None:
            for number, (future, place) in enumerate(begun):
                # The place of one that is done may be another's by now.
                if not future.done():
                    came_to[number] = self._steps[place]
            follow(sum(came_to))

        try:
            for one in each:
                begun.append(self._submitted(task, (one,), {}))
            return [self._result(future, place, look) for future, place in begun]
        except Exception:
            for future, place in begun:
                if not future.done():
                    self._end(future, place)
            raise

    def _submitted(
        self, task: Callable[..., T], args: tuple[Any, ...], named: dict[str, Any]
    ) -> "tuple[Future[T], int]":
        with self._lock:
            if not self._free:
                raise Unavailable("Too much is being done at once. Try again in a while.")
            place = self._free.pop()
            self._ends[place] = self._steps[place] = 0
            try:
                future: Future[T] = self._opened().submit(_do, place, task, args, named)
            except BrokenProcessPool:
                # Somebody else's task broke it.
                self._pool = None
                future = self._opened().submit(_do, place, task, args, named)
            # Until it ended where it is done, nothing else may be told to end at its place.
            future.add_done_callback(lambda _done: self._free.append(place))
        return future, place

    def _result(self, future: "Future[T]", place: int, follow: Callable[[int], object]) -> T:
        def look() -> None:
            try:
                check_wanted()
                follow(self._steps[place])
            except Exception:
                self._end(future, place)
                raise

        try:
            found = result_of(future, look)
        except BrokenProcessPool as error:
            with self._lock:
                self._pool = None
            raise Unavailable("A process that worked on this was ended, perhaps for want of memory.") from error
        follow(self._steps[place])
        return found

    def _end(self, future: "Future[Any]", place: int) -> None:
        # Whatever ends it here ends it there, as soon as it looks; nobody waits for that.
        self._ends[place] = 1
        future.cancel()

    def stop(self) -> None:
        """Ends all tasks."""
        with self._lock:
            for place in range(_PLACES):
                self._ends[place] = 1
            pool, self._pool = self._pool, None
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)

    def _opened(self) -> ProcessPoolExecutor:
        if self._pool is None:
            self._pool = ProcessPoolExecutor(
                self._count,
                mp_context=self._context,
                initializer=_begin,
                initargs=(self._address, self._ends, self._steps, allowed_processors()),
            )
        return self._pool


def result_of(future: "Future[T]", look: Callable[[], object], seconds: float = _SECONDS_BETWEEN_LOOKS) -> T:
    """What a task gives, or raises. look: called meanwhile, again and again; what it raises ends the waiting."""
    # Not `result` with a time: a task that ends just when the time is over would seem to have raised a TimeoutError.
    while not wait([future], seconds).done:
        look()
    return future.result()


# Of a process that does tasks.
_ours: dict[str, Any] = {}


def _begin(address: str, ends: Any, steps: Any, processors: frozenset[int]) -> None:
    # Whoever searches goes first.
    os.nice(STANDS_BACK_BY)
    # Whoever began it may be held on one of them.
    use_all(processors)
    _ours.update(address=address, ends=ends, steps=steps)
    # A task makes hundreds of thousands of tokens and hardly a cycle: what is one is looked for when it is done.
    gc.freeze()
    gc.disable()
    in_background("whose", end_with_parent)


def end_with_parent() -> None:
    """However the process ends that gave the tasks, killed or not: nothing of it stays behind."""
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(0)


class _AtPlace:
    """The errand of a task in a process of its own."""

    def __init__(self, place: int) -> None:
        self._place = place

    def wanted(self) -> bool:
        return not _ours["ends"][self._place]

    def came_to(self, step: int) -> None:
        _ours["steps"][self._place] = step


def _do_nothing() -> None:
    pass


def _do(place: int, task: Callable[..., T], args: tuple[Any, ...], named: dict[str, Any]) -> T:
    try:
        with psycopg.connect(_ours["address"]) as connection, patterns_within_bounds(perf_counter):
            return task(connection, _AtPlace(place), *args, **named)
    finally:
        gc.collect()
