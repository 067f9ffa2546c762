"""A whole collection read in two parts, by two processes: the same figures, and none of two states."""

from collections.abc import Generator
from pathlib import Path
from typing import Any

import pytest

from pale_harbor.core.text import chain_of
from pale_harbor.errors import Cancelled
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.records import key_at, record_count
from pale_harbor.work.chains import whole_reading
from pale_harbor.work.chains.consequences import exact
from pale_harbor.work.chains.whole_reading import Whole, join_parts, read_elsewhere, read_part, read_whole
from pale_harbor.work.records.changes import put_records
from pale_harbor.work.running.processes import Processes
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.workbench import Workbench
from tests.loading import load_rows

CHAIN = chain_of("words > stopwords(en) > lower > stem(en)")


@pytest.fixture
def processes(bench: Workbench) -> Generator[Processes]:
    own = Processes(str(bench.pool.conninfo), 2)
    yield own
    own.stop()


def load(bench: Workbench, folder: Path, count: int) -> None:
    rows = [{"id": f"r{n}", "title": ["The", f"{n} Bells"] if n % 3 else f"Bell {n % 7}"} for n in range(count)]
    load_rows(bench.pool, folder, rows)


def whole(bench: Workbench) -> Whole:
    with bench.pool.connection() as connection:
        found = collection_named(connection, "coast")
        records = record_count(connection, found.id)
    return Whole(collection_id=found.id, revision=found.revision, records=records, field="title", chain=CHAIN)


class Asked:
    """What processes are asked for."""

    def __init__(self, processes: Processes, monkeypatch: pytest.MonkeyPatch) -> None:
        self.tasks: list[object] = []
        for name, place in (("run_followed", 1), ("side_by_side", 0)):
            monkeypatch.setattr(processes, name, self._noted(getattr(processes, name), place))

    def _noted(self, real: Any, place: int) -> Any:
        def noted(*args: Any, **named: Any) -> Any:
            self.tasks.append(args[place])
            return real(*args, **named)

        return noted


@pytest.mark.parametrize(("records", "tasks"), [(39, [read_whole]), (40, [read_part, join_parts])])
def test_collections_of_so_many_records_are_read_in_two_parts(
    bench: Workbench,
    processes: Processes,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    records: int,
    tasks: list[object],
):
    monkeypatch.setattr(whole_reading, "READ_IN_PARTS", 40)
    load(bench, tmp_path, records)
    asked = Asked(processes, monkeypatch)
    came_to: list[int] = []
    found = read_elsewhere(bench.pool, processes, came_to.append, whole(bench), tmp_path / "own")
    assert asked.tasks == tasks
    assert found == exact(bench, "coast", "title", CHAIN)
    assert found.consequences.records == records
    assert came_to == sorted(came_to)
    assert came_to[-1] == records
    # No part is left behind.
    assert not list((tmp_path / "own").rglob("*"))


def test_where_the_records_changed_since_they_are_read_in_one_as_they_are_now(
    bench: Workbench, processes: Processes, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr(whole_reading, "READ_IN_PARTS", 40)
    load(bench, tmp_path, 40)
    before = whole(bench)
    put_records(bench.pool, "coast", [{"id": "r99", "title": "Zephyr"}])
    asked = Asked(processes, monkeypatch)
    found = read_elsewhere(bench.pool, processes, lambda _: None, before, tmp_path / "own")
    assert asked.tasks == [read_part, read_whole]
    assert found == exact(bench, "coast", "title", CHAIN)
    assert found.consequences.records == 41


def test_parts_that_nobody_waits_for_are_given_up(
    bench: Workbench, processes: Processes, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
):
    monkeypatch.setattr(whole_reading, "READ_IN_PARTS", 40)
    load(bench, tmp_path, 40)
    with wanted_while(lambda: False), pytest.raises(Cancelled):
        read_elsewhere(bench.pool, processes, lambda _: None, whole(bench), tmp_path / "own")
    assert not list((tmp_path / "own").rglob("*"))


def test_the_key_at_a_place_is_the_one_with_so_many_before_it(bench: Workbench, tmp_path: Path):
    load(bench, tmp_path, 12)
    with bench.pool.connection() as connection:
        found = collection_named(connection, "coast")
        assert [key_at(connection, found.id, place) for place in (0, 2, 11, 12)] == ["r0", "r10", "r9", None]
