"""The engine room: jobs from waiting to their end, heavy work in processes, work that nobody waits for."""

import asyncio
import os
import resource
import subprocess
import sys
from collections.abc import Callable, Generator
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from pathlib import Path
from threading import Event
from typing import Any

import psutil
import pytest
from starlette.types import Message, Receive, Scope, Send

from pale_harbor.api.waiting import WhileWaitedFor
from pale_harbor.core.text.errors import SlowPattern
from pale_harbor.errors import BadInput, Cancelled, HarborError, Unavailable
from pale_harbor.settings import ROOT
from pale_harbor.store.collections.collections import collection_named, make_collection
from pale_harbor.store.database import Pool
from pale_harbor.store.running.jobs import Job, add_job, job_with_id, want_cancel
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.running.asking import NotAnswered, with_retries
from pale_harbor.work.running.background import Workers
from pale_harbor.work.running.memory_budget import MemoryBudget
from pale_harbor.work.running.open_files import allow_open_files
from pale_harbor.work.running.processes import Processes, result_of
from pale_harbor.work.running.wanted import check_wanted, still_wanted, wanted_while
from pale_harbor.work.running.worker import Doing, JobRunner, Progress, do_job
from pale_harbor.work.workbench import Workbench
from tests.work import tasks
from tests.work.watched import WatchedProcesses


@pytest.fixture
def job(pool: Pool) -> int:
    with pool.connection() as connection:
        make_collection(connection, "coast")
        return add_job(connection, "reading", collection_named(connection, "coast").id, by_server=True)


def kept(pool: Pool, job_id: int) -> Job:
    with pool.connection() as connection:
        return job_with_id(connection, job_id)


def test_a_job_that_is_done_says_so_with_its_report(pool: Pool, job: int):
    def doing(_job: Job, progress: Progress) -> dict[str, Any]:
        progress.begin("reading", 2)
        progress.more(2)
        progress.note()
        return {"read": 2}

    assert do_job(pool, job, doing)
    done = kept(pool, job)
    assert (done.state, done.phase, done.done, done.in_all, done.report) == ("done", "reading", 2, 2, {"read": 2})
    assert not do_job(pool, job, doing)
    assert not do_job(pool, job + 1_000, doing)


def raising(error: Exception) -> Doing:
    def doing(_job: Job, _progress: Progress) -> None:
        raise error

    return doing


@pytest.mark.parametrize(
    ("error", "state", "problem"),
    [
        (BadInput("There is nothing to read."), "failed", "There is nothing to read."),
        (Cancelled("It was cancelled."), "cancelled", "It was cancelled."),
        # What nobody foresaw is for the log; what is kept of it may be read by anybody.
        (KeyError("/secret/path"), "failed", "A mistake of the program's ended this; its log says more."),
    ],
)
def test_a_job_that_ends_otherwise_says_why(pool: Pool, job: int, error: Exception, state: str, problem: str):
    with pytest.raises(type(error)):
        do_job(pool, job, raising(error))
    ended = kept(pool, job)
    assert (ended.state, ended.problem) == (state, problem)


def test_a_job_that_nobody_wants_any_more_hears_of_it_when_it_tells_how_far_it_is(pool: Pool, job: int):
    def doing(_job: Job, progress: Progress) -> None:
        progress.begin("reading", 0)
        with pool.connection() as connection:
            want_cancel(connection, job)
        progress.wait(60)

    with pytest.raises(Cancelled):
        do_job(pool, job, doing)
    assert kept(pool, job).state == "cancelled"


def test_a_runner_does_what_waits_and_what_is_told_of_later(pool: Pool, job: int):
    done = {job: Event()}

    def doing(own: Job, _progress: Progress) -> None:
        done[own.id].set()

    runner = JobRunner(pool, {"reading": doing})
    runner.start()
    try:
        assert done[job].wait(20)
        with pool.connection() as connection:
            # By a command: nobody takes it from there.
            mine = add_job(connection, "reading", None, by_server=False)
            later = add_job(connection, "reading", None, by_server=True)
            done |= {mine: Event(), later: Event()}
        # Told by the database, long before the next look.
        assert done[later].wait(10)
        assert not done[mine].is_set()
    finally:
        runner.stop()


@pytest.fixture
def processes(pool: Pool) -> Generator[Processes]:
    own = Processes(str(pool.conninfo), 1)
    yield own
    own.stop()


def test_a_task_is_done_in_another_process_on_a_connection_of_its_own(processes: Processes):
    assert processes.run(tasks.process_number) != os.getpid()
    # It stands back where the processor is short: whoever searches goes first.
    assert processes.run(tasks.niceness) == min(19, os.nice(0) + 10)
    steps: list[int] = []
    assert processes.run_followed(steps.append, tasks.counted, 40) == 820
    assert steps[-1] == 40
    assert steps == sorted(steps)


def test_what_is_wrong_in_a_task_is_told_here_in_its_own_words(processes: Processes):
    with pytest.raises(BadInput, match=r"Not like this\.\nhere: a mistake"):
        processes.run(tasks.refused)


def test_an_error_of_many_parts_comes_over_whole(processes: Processes):
    with pytest.raises(SlowPattern, match=r"took longer than 0\.5 s") as told:
        processes.run(tasks.too_slow)
    assert (told.value.place.column, told.value.nearest) == (9, None)
    assert processes.run(tasks.counted, 2) == 3


def test_a_task_whose_process_is_killed_is_told_of_and_the_next_one_is_done(processes: Processes):
    with pytest.raises(Unavailable, match="want of memory"):
        processes.run(tasks.killed)
    assert processes.run(tasks.counted, 2) == 3


def test_a_task_that_nobody_waits_for_ends_where_it_is_done(processes: Processes, tmp_path: Path):
    began, ended = tmp_path / "began", tmp_path / "ended"
    with wanted_while(lambda: not began.exists()), pytest.raises(Cancelled):
        processes.run(tasks.endless, began, ended)
    # There is one process: it does the next task once it ended the first.
    assert processes.run(tasks.counted, 2) == 3
    assert ended.exists()


def test_whoever_follows_a_task_may_end_it(processes: Processes, tmp_path: Path):
    began, ended = tmp_path / "began", tmp_path / "ended"

    def follow(_step: int) -> None:
        if began.exists():
            raise BadInput("Enough.")

    with pytest.raises(BadInput, match="Enough"):
        processes.run_followed(follow, tasks.endless, began, ended)
    assert processes.run(tasks.counted, 2) == 3
    assert ended.exists()


def test_tasks_side_by_side_give_their_results_in_order(processes: Processes):
    assert processes.side_by_side(tasks.counted, [3, 1, 2]) == [6, 1, 3]


def test_where_one_of_several_fails_the_others_end_too(processes: Processes, tmp_path: Path):
    began, ended = tmp_path / "began", tmp_path / "ended"
    with pytest.raises(BadInput, match="Not like this"):
        processes.side_by_side(tasks.refused_or_endless, [None, (began, ended)])
    assert processes.run(tasks.counted, 2) == 3
    # It may have been ended before it began.
    assert began.exists() == ended.exists()


SERVING = """
import os, sys, time
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.running.asking import NotAnswered, with_retries
from pale_harbor.work.running.background import Workers
from pale_harbor.work.running.processes import Processes
from tests.work import tasks
processes = Processes(sys.argv[1], 1)
print(processes.run(tasks.process_number), flush=True)
time.sleep(600)
"""


def test_processes_end_with_whoever_began_them_even_if_that_is_killed(pool: Pool):
    server = subprocess.Popen(
        [sys.executable, "-c", SERVING, str(pool.conninfo)], stdout=subprocess.PIPE, text=True, cwd=ROOT
    )
    assert server.stdout is not None
    task = psutil.Process(int(server.stdout.readline()))
    server.kill()
    server.wait(20)
    task.wait(20)
    assert not task.is_running()


def test_an_index_is_built_elsewhere_as_it_is_built_here(
    bench: Workbench, processes: Processes, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    from pale_harbor.core.text import chain_of
    from tests.loading import load_rows

    monkeypatch.setattr("pale_harbor.work.collections.opened.ELSEWHERE_FROM", 1)
    load_rows(bench.pool, tmp_path, [{"id": f"r{n}", "title": f"Fog bell {n}"} for n in range(50)])
    chain = chain_of("words > lower")
    elsewhere = Workbench(bench.pool, tmp_path / "elsewhere", processes=processes)
    ((here,), (there,)) = (
        own.with_collection("coast", lambda opened: opened.indexes("title", chain)) for own in (bench, elsewhere)
    )
    assert list(here.vocabulary) == list(there.vocabulary)
    assert here.record_ids.tolist() == there.record_ids.tolist()


@pytest.mark.parametrize(("records", "elsewhere"), [(49, 0), (50, 1)])
def test_only_slabs_of_so_many_records_are_built_elsewhere(
    bench: Workbench, pool: Pool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, records: int, elsewhere: int
):
    from pale_harbor.core.text import chain_of
    from tests.loading import load_rows

    monkeypatch.setattr("pale_harbor.work.collections.opened.ELSEWHERE_FROM", 50)
    load_rows(pool, tmp_path, [{"id": f"r{n}", "title": "Fog bell"} for n in range(records)])
    watched = WatchedProcesses(pool)
    own = Workbench(pool, tmp_path / "own", processes=watched)
    own.with_collection("coast", lambda opened: opened.indexes("title", chain_of("words")))
    assert len(watched.asked) == elsewhere


@pytest.mark.parametrize(("records", "parts"), [(49, 1), (50, 2)])
def test_an_index_built_in_parts_is_the_index_of_one_build(
    bench: Workbench,
    processes: Processes,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    records: int,
    parts: int,
):
    from dataclasses import fields

    from pale_harbor.core.text import chain_of
    from pale_harbor.work.collections.building import append
    from tests.loading import load_rows

    monkeypatch.setattr("pale_harbor.work.collections.opened.ELSEWHERE_FROM", 1)
    monkeypatch.setattr("pale_harbor.work.collections.building.BUILT_IN_PARTS", 50)
    rows = [{"id": f"r{n}", "title": f"Fog bell {n}" if n % 3 else ["salt", f"pan {n}"]} for n in range(records)]
    load_rows(bench.pool, tmp_path, rows)
    chain = chain_of("words > lower > word_grams(2, 2)")
    asked: list[object] = []

    def run(task: Any, *args: Any, **named: Any) -> Any:
        asked.append(task)
        return Processes.run(processes, task, *args, **named)

    monkeypatch.setattr(processes, "run", run)
    elsewhere = Workbench(bench.pool, tmp_path / "elsewhere", processes=processes)
    ((here,), (there,)) = (
        own.with_collection("coast", lambda opened: opened.indexes("title", chain)) for own in (bench, elsewhere)
    )
    assert (append in asked) == (parts == 2)
    assert list(here.vocabulary) == list(there.vocabulary)
    for field in fields(here)[1:]:
        assert getattr(here, field.name).tolist() == getattr(there, field.name).tolist(), field.name
    # No part is left behind.
    assert not list((tmp_path / "elsewhere").rglob("unfinished-*"))


@pytest.mark.parametrize(("at_once", "elsewhere"), [(4, True), (5, False)])
def test_slabs_of_more_records_than_are_joined_at_once_are_joined_elsewhere(
    pool: Pool,
    processes: Processes,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    at_once: int,
    elsewhere: bool,
):
    from pale_harbor.core.text import chain_of
    from pale_harbor.work.collections.joining import join
    from tests.loading import load_rows

    def all_of_several(living: list[int], _dead: list[int]) -> int:
        return 0 if len(living) > 1 else 1

    joining: list[Callable[[], object]] = []

    def begin(_name: str, work: Callable[[], object]) -> None:
        joining.append(work)

    asked: list[object] = []

    def run(task: Any, *args: Any, **named: Any) -> Any:
        asked.append(task)
        return Processes.run(processes, task, *args, **named)

    monkeypatch.setattr("pale_harbor.work.collections.opened.first_to_join", all_of_several)
    monkeypatch.setattr("pale_harbor.work.collections.opened.JOINED_AT_ONCE", at_once)
    monkeypatch.setattr("pale_harbor.work.workbench.in_background", begin)
    monkeypatch.setattr(processes, "run", run)
    load_rows(pool, tmp_path, [{"id": f"r{n}", "title": f"Fog bell {n}"} for n in range(4)])
    own = Workbench(pool, tmp_path / "own", processes=processes)
    chain = chain_of("words > lower")
    own.with_collection("coast", lambda opened: opened.indexes("title", chain))
    put_records(pool, "coast", [{"id": "r1", "title": "Ice anchor"}, {"id": "r9", "title": "Fog horn"}])
    own.with_collection("coast", lambda opened: opened.indexes("title", chain))
    for work in joining:
        work()
    assert asked == ([join] if elsewhere else [])
    joined = own.with_collection("coast", lambda opened: opened)
    (live,) = joined.slabs
    assert live.alive is None
    assert list(live.slab.keys) == ["r0", "r1", "r2", "r3", "r9"]

    def never(*_: Any) -> Any:
        raise AssertionError("the index was built anew")

    if elsewhere:
        monkeypatch.setattr("pale_harbor.work.collections.opened.build", never)
    (index,) = joined.indexes("title", chain)
    found = [index.postings(word) for word in ("anchor", "fog")]
    assert [one and one.record_ids.tolist() for one in found] == [[1], [0, 2, 3, 4]]


@pytest.mark.parametrize(
    ("asked_for", "first_wait", "waits"),
    [
        (None, 0.5, [0.5, 1.0, 2.0]),
        # Who is asked says how long: not shorter than that, and never beyond half a minute.
        (1.5, 0.5, [1.5, 1.5, 2.0]),
        (90.0, 0.5, [30.0, 30.0, 30.0]),
        (None, 20.0, [20.0, 30.0, 30.0]),
    ],
)
def test_who_does_not_answer_is_asked_again_after_a_while_that_doubles(
    asked_for: float | None, first_wait: float, waits: list[float]
):
    waited: list[float] = []

    def once() -> None:
        raise NotAnswered("refused", "it is busy", later=True, wait=asked_for)

    with pytest.raises(NotAnswered):
        with_retries(once, 4, waited.append, first_wait)
    assert waited == waits


def test_what_will_not_be_otherwise_later_is_asked_once():
    asked: list[int] = []

    def once() -> None:
        asked.append(1)
        raise NotAnswered("refused", "it refuses", later=False)

    with pytest.raises(NotAnswered):
        with_retries(once, 4, lambda _seconds: None, 0.5)
    assert len(asked) == 1


def test_work_is_wanted_unless_somebody_says_otherwise():
    check_wanted()
    with wanted_while(lambda: False):
        assert not still_wanted()
        with pytest.raises(HarborError, match="Nobody waits"):
            check_wanted()
    assert still_wanted()


def test_a_request_whose_visitor_goes_away_is_wanted_no_more():
    """Read the body, go away: whatever works on the answer hears of it, and nothing is left behind."""
    heard: list[bool] = []

    async def app(_scope: Scope, receive: Receive, _send: Send) -> None:
        assert (await receive())["type"] == "http.request"
        heard.append(still_wanted())
        assert (await receive())["type"] == "http.disconnect"
        heard.append(still_wanted())

    async def visit() -> None:
        messages: list[Message] = [
            {"type": "http.request", "body": b"{}", "more_body": False},
            {"type": "http.disconnect"},
        ]

        async def receive() -> Message:
            await asyncio.sleep(0)
            return messages.pop(0)

        async def send(_message: Message) -> None:
            pass

        await WhileWaitedFor(app, MemoryBudget())({"type": "http", "path": "/api/collections"}, receive, send)

    # In a thread of its own: a browser's tests may have a loop running in this one.
    with ThreadPoolExecutor(1) as elsewhere:
        elsewhere.submit(lambda: asyncio.run(visit())).result()
    assert heard == [True, False]
    assert still_wanted()


def test_what_waits_for_a_worker_is_not_done_once_it_was_told_to_stop():
    workers = Workers("trying", 1)
    begun, go_on, ended = Event(), Event(), Event()
    done: list[str] = []

    def first() -> None:
        begun.set()
        assert go_on.wait(20)
        done.append("first")
        ended.set()

    workers.take(first)
    workers.take(lambda: done.append("second"))
    assert begun.wait(20)
    workers.stop()
    go_on.set()
    # What is under way goes on until it ends.
    assert ended.wait(20)
    workers.finish()
    assert done == ["first"]


class EndsAsItsTimeIsOver(Future[int]):
    """A task that is done in the moment between the end of the waiting and the look at it."""

    def result(self, timeout: float | None = None) -> int:
        if timeout is not None and not self.done():
            self.set_result(7)
            raise TimeoutError
        return super().result(timeout)


def test_a_task_that_ends_as_its_time_is_over_has_ended_well():
    task = EndsAsItsTimeIsOver()
    assert result_of(task, lambda: task.done() or task.set_result(7), 0.001) == 7


def test_a_task_may_raise_that_something_took_too_long():
    task: Future[int] = Future()
    with pytest.raises(TimeoutError, match="the tide"):
        result_of(task, lambda: task.set_exception(TimeoutError("the tide")), 0.001)


@pytest.mark.parametrize(("least", "begun"), [(5, True), (6, False)])
def test_processes_are_there_before_the_first_task_where_some_collection_is_large(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, least: int, begun: bool
):
    from pale_harbor.work.server import Server
    from tests.loading import load_rows

    monkeypatch.setattr("pale_harbor.work.server.ELSEWHERE_FROM", least)
    load_rows(bench.pool, tmp_path, [{"id": f"r{n}", "title": f"Fog bell {n}"} for n in range(5)])
    watched = WatchedProcesses(bench.pool)
    server = Server(Workbench(bench.pool, tmp_path / "own", processes=watched))
    server.begin()
    server.end()
    assert watched.begun == begun


def test_the_server_lets_itself_have_as_many_files_open_as_it_may(monkeypatch: pytest.MonkeyPatch):
    limits = [(1_024, 4_096), (1_024, 1_000_000), (200_000, 1_000_000), (1_024, resource.RLIM_INFINITY)]
    told: list[tuple[int, int]] = []

    def set_limit(_what: int, wanted: tuple[int, int]) -> None:
        told.append(wanted)

    monkeypatch.setattr(resource, "setrlimit", set_limit)
    found: list[int] = []
    for one in limits:
        monkeypatch.setattr(resource, "getrlimit", partial(_known, one))
        found.append(allow_open_files())
    assert found == [4_096, 65_536, 200_000, 65_536]
    assert told == [(4_096, 4_096), (65_536, 1_000_000), (65_536, resource.RLIM_INFINITY)]


def _known(limits: tuple[int, int], _what: int) -> tuple[int, int]:
    return limits
