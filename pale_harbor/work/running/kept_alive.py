"""One process of its own that goes on for as long as it is wanted: where it ends, it is begun again."""

import multiprocessing
from collections.abc import Callable
from multiprocessing.process import BaseProcess
from threading import Event
from time import monotonic
from typing import Any, Final

import structlog

from pale_harbor.work.running.background import in_background
from pale_harbor.work.running.processes import end_with_parent

_SECONDS_BETWEEN_LOOKS: Final = 1.0
_FIRST_WAIT_S: Final = 0.2
_LONGEST_WAIT_S: Final = 15.0
# One that went on for so long was well begun.
_WELL_S: Final = 10.0
_SECONDS_TO_END: Final = 5.0
# Nobody may want it for a moment only.
_SECONDS_UNWANTED: Final = 20.0


class KeptAlive:
    """A function of a module, done in a process. wanted: whether it is to go on; it is asked again and again.

    arguments: go from process to process; they are seen by nobody else.
    """

    def __init__(
        self, name: str, work: Callable[..., object], arguments: tuple[Any, ...], wanted: Callable[[], bool]
    ) -> None:
        self.name = name
        self._work, self._arguments, self._wanted = work, arguments, wanted
        self._context = multiprocessing.get_context("spawn")
        self._process: BaseProcess | None = None
        self._ended, self._looked = Event(), Event()
        self._begun_at, self._last_wanted = 0.0, 0.0
        self._failures = 0

    def start(self) -> None:
        """Begins to look whether it is wanted."""
        in_background(self.name, self._look_on_and_on)

    def look_soon(self) -> None:
        """Has somebody look at once."""
        self._looked.set()

    def stop(self) -> None:
        """Ends it."""
        self._ended.set()
        self._looked.set()
        self._end()

    @property
    def process_id(self) -> int | None:
        """Of the process, None where there is none."""
        process = self._process
        return None if process is None or not process.is_alive() else process.pid

    def _look_on_and_on(self) -> None:
        while not self._ended.is_set():
            try:
                self._look()
            except Exception as error:
                # The database may be away: whatever goes on goes on meanwhile.
                structlog.get_logger().warning("not looked after", work=self.name, reason=str(error)[:300])
            self._looked.wait(_SECONDS_BETWEEN_LOOKS)
            self._looked.clear()

    def _look(self) -> None:
        now = monotonic()
        if self._process is not None and not self._process.is_alive():
            self._failures = 0 if now - self._begun_at >= _WELL_S else self._failures + 1
            structlog.get_logger().warning("a process ended", work=self.name, code=self._process.exitcode)
            self._process.close()
            self._process = None
            if self._failures:
                self._ended.wait(min(_LONGEST_WAIT_S, _FIRST_WAIT_S * 2 ** min(self._failures, 8)))
        if self._wanted():
            self._last_wanted = monotonic()
            if self._process is None and not self._ended.is_set():
                self._begin()
        elif self._process is not None and now - self._last_wanted > _SECONDS_UNWANTED:
            self._end()

    def _begin(self) -> None:
        self._begun_at = monotonic()
        process = self._context.Process(target=_do, args=(self._work, self._arguments), name=self.name, daemon=True)
        process.start()
        self._process = process

    def _end(self) -> None:
        process, self._process = self._process, None
        if process is None:
            return
        process.terminate()
        process.join(_SECONDS_TO_END)
        if process.is_alive():
            process.kill()


def _do(work: Callable[..., object], arguments: tuple[Any, ...]) -> None:
    # However whoever began it ends, killed or not: it ends too.
    in_background("whose", end_with_parent)
    work(*arguments)
