"""Who takes too much memory is reckoned by what the program grows by, and ended; when there is too little, nothing more
is begun."""

import subprocess
import sys
from pathlib import Path
from threading import Event
from types import SimpleNamespace
from typing import Any

import numpy as np
import psutil
import pytest

from pale_harbor.settings import Settings
from pale_harbor.store.running.jobs import add_job
from pale_harbor.work.running import memory_budget
from pale_harbor.work.running.caches import Memory
from pale_harbor.work.running.memory_budget import HeldByProgram, MemoryBudget, memory_there
from pale_harbor.work.server import Server
from pale_harbor.work.workbench import Workbench, budget_of

MB = 1_000_000


class Scale:
    """Says how much is held."""

    def __init__(self) -> None:
        self.held = 100 * MB

    def __call__(self) -> int:
        return self.held


@pytest.fixture
def scale() -> Scale:
    return Scale()


def budget(scale: Scale, most: int = 1_000, each: int = 200) -> MemoryBudget:
    return MemoryBudget(most * MB, each * MB, scale)


@pytest.mark.parametrize(("grown", "is_ended"), [(199, False), (200, False), (201, True)])
def test_a_request_may_take_as_much_as_it_may(scale: Scale, grown: int, is_ended: bool):
    watched = budget(scale)
    with watched.counted() as taken:
        scale.held += grown * MB
        watched.look()
        assert (taken.over is not None) == is_ended
        if is_ended:
            assert taken.over == (
                "This took more than 200 MB of memory, and one request may take no more. Ask for less at once: fewer "
                "records, queries or stages."
            )


def test_what_was_held_before_and_what_was_given_back_is_not_counted(scale: Scale):
    watched = budget(scale)
    scale.held += 500 * MB
    watched.look()
    with watched.counted() as taken:
        scale.held += 150 * MB
        watched.look()
        scale.held -= 150 * MB
        watched.look()
        scale.held += 150 * MB
        watched.look()
        assert (taken.over, taken.taken_bytes) == (None, 150 * MB)
        # Nor does anybody get a credit by what others give back.
        scale.held -= 400 * MB
        watched.look()
        assert taken.taken_bytes == 0


def test_what_several_take_is_divided_among_them(scale: Scale):
    watched = budget(scale)
    with watched.counted() as long:
        for _ in range(3):
            with watched.counted() as short:
                scale.held += 120 * MB
                watched.look()
            assert short.taken_bytes == 60 * MB
        assert (long.taken_bytes, long.over) == (180 * MB, None)
        scale.held += 21 * MB
        watched.look()
        assert long.over is not None
    # Whoever is through takes no part any more.
    scale.held += 400 * MB
    watched.look()
    assert long.taken_bytes == 201 * MB


def test_a_job_bears_its_part_and_goes_on(scale: Scale):
    watched = budget(scale)
    with watched.counted(is_job=True) as job, watched.counted() as request:
        scale.held += 400 * MB
        watched.look()
        assert (job.taken_bytes, request.taken_bytes, request.over) == (200 * MB, 200 * MB, None)
        scale.held += 2
        watched.look()
        assert (job.over, request.over is not None) == (None, True)
    with watched.counted(is_job=True) as job:
        scale.held = 2_000 * MB
        watched.look()
        assert job.over is None
        with watched.counted() as request:
            watched.look()
            assert request.over is not None
            assert "this took the most of it" in request.over


def test_a_look_that_goes_wrong_is_followed_by_the_next(scale: Scale):
    seen = Event()
    watched = budget(scale)

    def broken_once() -> int:
        watched._held = lambda: seen.set() or 2_000 * MB  # pyright: ignore
        raise psutil.NoSuchProcess(1)

    watched._held = broken_once  # pyright: ignore[reportPrivateUsage]
    watched.start()
    assert seen.wait(30)
    watched.stop()


def test_jobs_of_a_server_are_counted(bench: Workbench, scale: Scale):
    watched = budget(scale)
    counted: list[bool] = []

    def doing(*_: object) -> None:
        counted.append(watched._taken[0].is_job)  # pyright: ignore[reportPrivateUsage]

    server = Server(bench, watched)
    server.jobs._doing = {"import": doing}  # pyright: ignore
    with bench.pool.connection() as connection:
        add_job(connection, "import", None, by_server=True, new_collection="pier")
    server.jobs.look()
    server.jobs.finish()
    assert counted == [True]


@pytest.mark.parametrize(("held", "is_short"), [(999, False), (1_000, False), (1_001, True)])
def test_beyond_the_whole_nothing_more_is_begun(scale: Scale, held: int, is_short: bool):
    watched = budget(scale)
    assert watched.refusal() is None
    scale.held = held * MB
    watched.look()
    assert (watched.refusal() is not None) == is_short
    if is_short:
        assert watched.refusal() == (
            "The server holds 1,001 MB of memory, and may hold 1,000 MB. Wait until something of what is under way is "
            "done."
        )
    scale.held = 900 * MB
    watched.look()
    assert watched.refusal() is None


def test_beyond_the_whole_the_largest_is_ended_one_at_a_time(scale: Scale):
    watched = budget(scale, each=5_000)
    with watched.counted() as small:
        scale.held += 100 * MB
        watched.look()
        with watched.counted() as large:
            scale.held = 1_000 * MB
            watched.look()
            assert (small.over, large.over) == (None, None)
            large.taken_bytes = 500 * MB
            small.taken_bytes = 499 * MB
            scale.held += 1
            watched.look()
            assert large.over == (
                "The server came to hold more than 1,000 MB of memory, and this took the most of it. Ask for less at "
                "once, or when less is under way."
            )
            watched.look()
            assert small.over is None
        # Once that one has ended, and it is still too much, it is the next one's turn.
        watched.look()
        assert small.over is not None


def test_while_it_is_short_what_is_kept_to_be_quick_is_let_go_of(scale: Scale):
    memory = Memory()
    memory.query_vectors.put("a", np.zeros(3))
    mapped: Any = SimpleNamespace(index_bytes=1)
    memory.indexes.put(("folder", 1), (mapped, 1))
    watched = MemoryBudget(1_000 * MB, 200 * MB, scale, memory.forget_all)
    watched.look()
    assert memory.query_vectors.held_keys() == ["a"]
    scale.held = 1_001 * MB
    watched.look()
    assert memory.query_vectors.held_keys() == []
    # Files that are mapped take none.
    assert memory.indexes.held_keys() == [("folder", 1)]


def test_what_the_program_holds_is_seen_without_mapped_files(tmp_path: Path):
    held = HeldByProgram()
    before = held()
    filled = np.ones(12_500_000)
    assert 90 * MB < held() - before < 200 * MB
    path = tmp_path / "mapped.npy"
    np.save(path, filled)
    del filled
    level = held()
    mapped = np.load(path, mmap_mode="r")
    assert mapped.sum() == 12_500_000
    assert held() - level < 50 * MB


def test_what_the_program_began_is_seen_too():
    held = HeldByProgram()
    before = held()
    filling = "kept = bytearray(90_000_000); print('filled', flush=True); input()"
    with subprocess.Popen([sys.executable, "-c", filling], stdin=subprocess.PIPE, stdout=subprocess.PIPE) as child:
        assert child.stdout is not None
        assert child.stdout.readline() == b"filled\n"
        # All that it began is gone through with every tenth look.
        looks = [held() - before for _ in range(10)]
        child.kill()
    assert looks[-1] > 80 * MB


def test_a_server_s_budget_is_as_its_settings_say(bench: Workbench):
    bench.memory.query_vectors.put("a", np.zeros(3))
    own = budget_of(Settings(Path("/nowhere"), most_bytes=3_000_000_000, request_bytes=20_000_000), bench)
    assert (own.most_bytes, own.request_bytes) == (3_000_000_000, 20_000_000)
    # So little that it is short at once, and what is kept is let go of.
    budget_of(Settings(Path("/nowhere"), most_bytes=10_000_000), bench).look()
    assert bench.memory.query_vectors.held_keys() == []


def test_a_container_may_be_given_less_than_its_machine_has(tmp_path: Path, monkeypatch: pytest.MonkeyPatch):
    given = tmp_path / "memory.max"
    monkeypatch.setattr(memory_budget, "_GIVEN", (tmp_path / "nowhere", given))
    for said, there in (
        ("max\n", psutil.virtual_memory().total),
        ("5000000\n", 5_000_000),
        ("9" * 19, psutil.virtual_memory().total),
    ):
        given.write_text(said)
        assert memory_there() == there
    given.write_text("5000000")
    usual = MemoryBudget()
    assert (usual.most_bytes, usual.request_bytes) == (3_750_000, 1_875_000)
