"""Does jobs: one at a time holds each, says how far it is, ends when nobody wants it, and takes up what was cut off."""

import time
from collections.abc import Callable, Mapping
from contextlib import AbstractContextManager, nullcontext, suppress
from threading import Event, Lock
from typing import Any, Final

import psycopg
import structlog
from psycopg_pool import PoolClosed, PoolTimeout

from pale_harbor.core.text.patterns import patterns_within_bounds
from pale_harbor.errors import Cancelled, HarborError, NotFound
from pale_harbor.store.database import Pool
from pale_harbor.store.people.acting import acting_for
from pale_harbor.store.running.jobs import (
    Job,
    JobKind,
    end_job,
    holding_job,
    is_held,
    job_with_id,
    note_progress,
    unfinished_jobs,
)
from pale_harbor.store.running.notices import notices
from pale_harbor.work.running.background import Workers, in_background
from pale_harbor.work.running.room import NO_ROOM, is_for_want_of_room

_SECONDS_BETWEEN_NOTES: Final = 0.3
# Whatever was not told of is seen then.
_SECONDS_BETWEEN_LOOKS: Final = 20.0
_SECONDS_UNTIL_AGAIN: Final = 5.0
_OUR_MISTAKE: Final = "A mistake of the program's ended this; its log says more."


class Progress:
    """How far a job is: noted now and then. Whoever notes it hears by Cancelled that nobody wants the job any more."""

    def __init__(self, pool: Pool, job_id: int) -> None:
        self._pool, self._job_id = pool, job_id
        self._phase, self._done, self._in_all = "", 0, 0
        self._next = 0.0

    def begin(self, phase: str, in_all: int) -> None:
        """A new part of the work, of so many steps; 0 where that cannot be known."""
        self._phase, self._done, self._in_all = phase, 0, in_all
        self.note()

    def more(self, count: int = 0) -> None:
        """So many steps are done."""
        self._done += count
        if time.monotonic() >= self._next:
            self.note()

    def wait(self, seconds: float) -> None:
        """Waits, and sees meanwhile whether the job is still wanted."""
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0:
            self.note()
            time.sleep(min(left, _SECONDS_BETWEEN_NOTES))

    def is_wanted(self) -> bool:
        """Whether somebody still wants the job, for what must not be ended from within."""
        try:
            self.more()
        except Cancelled:
            return False
        return True

    def note(self) -> None:
        """Says at once how far it is. Raises Cancelled."""
        self._next = time.monotonic() + _SECONDS_BETWEEN_NOTES
        with self._pool.connection() as connection:
            if not note_progress(connection, self._job_id, self._phase, self._done, self._in_all):
                raise Cancelled("It was cancelled.")


class Undecided(Exception):
    """Raised by whoever does a job that was left waiting for somebody's word: it did not end."""


# Does a job and returns what is to be said of it at the end.
Doing = Callable[[Job, Progress], dict[str, Any] | None]


def do_job(pool: Pool, job_id: int, doing: Doing) -> bool:
    """Does a job from where it stands; False where somebody else is at it, or it is gone or ended.

    How it ended is kept: done, cancelled, or failed with the reason. Raises what made it fail, once that is kept.
    """
    # A connection of its own: it is held all along, and many jobs at once must not use up the pool.
    with psycopg.connect(str(pool.conninfo)) as holder, holding_job(holder, job_id) as held:
        if not held:
            return False
        with pool.connection() as connection:
            try:
                job = job_with_id(connection, job_id)
            except NotFound:
                return False
        if job.state not in ("waiting", "running"):
            return False
        started = time.perf_counter()
        try:
            with patterns_within_bounds(time.perf_counter), acting_for(job.person_id):
                report = doing(job, Progress(pool, job_id))
        except Undecided:
            return True
        except Cancelled as error:
            _end(pool, job, "cancelled", str(error))
            raise
        except HarborError as error:
            _end(pool, job, "failed", str(error))
            raise
        except Exception as error:
            if is_for_want_of_room(error):
                _end(pool, job, "failed", NO_ROOM)
            elif not isinstance(error, psycopg.Error):
                # It would fail the same way again. Where the database went away nothing can be noted, and the job is
                # taken up again.
                _end(pool, job, "failed", _OUR_MISTAKE)
            raise
        with pool.connection() as connection:
            end_job(connection, job_id, "done", report=report)
        structlog.get_logger().info(
            "job done", kind=job.kind, job=job_id, elapsed_s=round(time.perf_counter() - started, 1)
        )
        return True


def _end(pool: Pool, job: Job, state: Any, problem: str) -> None:
    with pool.connection() as connection:
        end_job(connection, job.id, state, problem=problem)
    structlog.get_logger().info("job ended", kind=job.kind, job=job.id, state=state, problem=problem)


class JobRunner:
    """A server's jobs: those that somebody asked for and those that a crash cut off, as soon as a worker is free.

    doing: how each kind is done, and so many at once. before: done at each look, where new jobs may come of it. within:
    what each job is done within.
    """

    def __init__(
        self,
        pool: Pool,
        doing: Mapping[JobKind, Doing],
        before: Callable[[], object] = lambda: None,
        at_once: int = 2,
        within: Callable[[], AbstractContextManager[object]] = nullcontext,
    ) -> None:
        self._pool, self._doing, self._before, self._within = pool, doing, before, within
        self._workers = {kind: Workers(kind, at_once) for kind in doing}
        self._ended, self._lock = Event(), Lock()
        self._at_work: set[int] = set()

    def start(self) -> None:
        """Begins to look for what is to be done, now and whenever the database tells of something."""
        in_background("jobs", self._listen)

    def stop(self) -> None:
        """Takes up nothing more; what is under way is taken up again next time."""
        self._ended.set()
        for workers in self._workers.values():
            workers.stop()

    def finish(self) -> None:
        """Waits until everything that was taken up is done."""
        for workers in self._workers.values():
            workers.finish()

    def look(self) -> list[int]:
        """Takes up every unfinished job that nobody is at; returns them."""
        self._before()
        taken: list[int] = []
        with self._pool.connection() as connection:
            jobs = [
                job
                for job in unfinished_jobs(connection)
                if (job.by_server or job.cancel_wanted) and job.kind in self._doing and not is_held(connection, job.id)
            ]
        for job in jobs:
            if self.take(job.id, job.kind):
                taken.append(job.id)
        return taken

    def take(self, job_id: int, kind: JobKind) -> bool:
        """Does a job as soon as a worker is free; False where it waits for one already."""
        with self._lock:
            if job_id in self._at_work or self._ended.is_set():
                return False
            self._at_work.add(job_id)
        self._workers[kind].take(lambda: self._do(job_id, kind))
        return True

    def _do(self, job_id: int, kind: JobKind) -> None:
        done = False
        try:
            with self._within():
                done = do_job(self._pool, job_id, self._doing[kind])
        except psycopg.Error:
            self._ended.wait(_SECONDS_UNTIL_AGAIN)
            raise
        finally:
            with self._lock:
                self._at_work.discard(job_id)
        if done and self._waits(job_id):
            # It was undecided, and somebody gave their word before we let go of it.
            self.take(job_id, kind)

    def _waits(self, job_id: int) -> bool:
        with self._pool.connection() as connection, suppress(NotFound):
            return job_with_id(connection, job_id).state == "waiting"
        return False

    def _listen(self) -> None:
        while not self._ended.is_set():
            try:
                for notice in notices(str(self._pool.conninfo), _SECONDS_BETWEEN_LOOKS):
                    if self._ended.is_set():
                        return
                    if notice is None or _is_news(notice):
                        self.look()
            except (psycopg.Error, PoolTimeout, PoolClosed):
                # Whatever was wrong with one look, there is a next one.
                self._ended.wait(_SECONDS_UNTIL_AGAIN)
            except Exception as error:
                # Of nobody's making, and no reason to look no more: jobs would wait for ever.
                structlog.get_logger().error("looking for jobs went wrong", exc_info=error)
                self._ended.wait(_SECONDS_UNTIL_AGAIN)


def _is_news(notice: Mapping[str, Any]) -> bool:
    """Whether there may be work: not where a job came further, nor where a draft was changed."""
    if notice.get("subject") == "drafts":
        return False
    return notice.get("state") in (None, "waiting") or bool(notice.get("cancel"))
