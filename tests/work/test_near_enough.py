"""A space that is asked near enough: what is missed is said, a filter is kept exactly, and it can be asked exactly."""

from collections.abc import Callable
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from pale_harbor.core.fields import OneOf
from pale_harbor.core.measures import measure
from pale_harbor.formats.index_files import read_groups
from pale_harbor.formats.judged_files import judgments_in, queries_in
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.judging.set_files import put_judged_set
from pale_harbor.work.measuring.measuring import measure_ranker
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import Found, find
from pale_harbor.work.ranking.why_not import why_not
from pale_harbor.work.records.changes import remove_records
from pale_harbor.work.running.processes import Processes
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows
from tests.spaces import COLLECTION, made, refilled

THINGS = "lamp lantern bell boat ship fog coat sailor rope anchor whale letter chart pilot buoy storm".split()
ROWS: list[dict[str, Any]] = [
    {
        "id": f"r{i:03}",
        "title": f"{THINGS[i % 16]} {THINGS[(i * 5 + 3) % 16]} {THINGS[(i * 7 + 1) % 16]}",
        "kind": ["letter", "chart", "bell"][i % 3],
        "shelf": f"s{i // 4}",
    }
    for i in range(240)
]
SAID = 'The space "sense" is asked near enough: through 20 % of its groups of vectors, whole where a filter leaves few.'


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Workbench:
    """Its vectors are many enough for groups."""
    monkeypatch.setattr("pale_harbor.work.spaces.open_space.FEWEST_GROUPED", 200)
    monkeypatch.setattr("pale_harbor.work.spaces.grouping.FEWEST_GROUPED", 200)
    load_rows(bench.pool, tmp_path, ROWS)
    refilled(bench, made(bench, "sense", {"kind": "packaged"}, fields=["title"]))
    return bench


def choice(near_enough: float | None, **also: Any) -> RankerChoice:
    document = ranker_document(
        {
            "readings": [{"field": "title", "chain": "words > lower"}],
            "spaces": [{"space": "sense", "fetch": 20, "near_enough": near_enough}],
            "blend": {"how": "weighted_sum", "meaning": 1.0},
        }
    )
    return RankerChoice(document=document, **also)


def asked(bench: Workbench, near_enough: float | None, query: str = "lantern", **question: Any) -> Found:
    def work(opened: OpenCollection) -> Found:
        ranker = bench.choose(opened.collection, choice(near_enough)).ranker
        return find(opened, ranker, Question(query, **question), 20, 0, [])

    return bench.with_collection(COLLECTION, work)


def keys(found: Found) -> list[str]:
    return [one.key for one in found.results]


def scores(found: Found) -> dict[str, float]:
    return {one.key: one.score for one in found.results}


def opened_slab(bench: Workbench, work: Callable[[OpenCollection], Any]) -> Any:
    return bench.with_collection(COLLECTION, work)


def group_folders(bench: Workbench) -> list[Path]:
    return sorted(Path(bench.index_folder).glob("*/*/groups-*"))


def test_what_is_found_near_enough_is_found_exactly_too_and_as_alike(coast: Workbench):
    exact, near = asked(coast, None), asked(coast, 0.2)
    assert exact.notes == []
    assert near.notes == [SAID]
    assert len(set(keys(near)) & set(keys(exact))) >= 10
    both = scores(near).keys() & scores(exact).keys()
    assert len(both) >= 10


def test_through_all_groups_it_is_the_exact_list_and_nothing_is_said(coast: Workbench):
    assert (keys(asked(coast, 1.0)), asked(coast, 1.0).notes) == (keys(asked(coast, None)), [])


def test_few_vectors_are_compared_exactly_and_nothing_is_said(coast: Workbench, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.work.spaces.open_space.FEWEST_GROUPED", 241)
    near = asked(coast, 0.01)
    assert (keys(near), near.notes) == (keys(asked(coast, None)), [])
    assert group_folders(coast) == []


def test_a_filter_leaves_the_nearest_of_what_it_leaves(coast: Workbench):
    few = [OneOf("shelf", ("s1", "s9"))]
    assert keys(asked(coast, 0.2, filters=few)) == keys(asked(coast, None, filters=few)) != []
    charts = [OneOf("kind", ("chart",))]
    assert {int(key[1:]) % 3 for key in keys(asked(coast, 0.2, filters=charts))} == {1}


def test_what_was_deleted_is_not_found(coast: Workbench):
    gone = keys(asked(coast, 0.2))[:5]
    remove_records(coast.pool, COLLECTION, gone)
    assert not set(keys(asked(coast, 0.2))) & set(gone)


def test_groups_are_made_once_and_go_with_their_vectors(coast: Workbench, tmp_path: Path):
    asked(coast, 0.2)
    (folder,) = group_folders(coast)
    written = (folder / "codes.npy").stat().st_mtime_ns
    coast.memory.forget_all()
    coast.memory.groups.let_go(lambda _: True)
    asked(coast, 0.3)
    assert (folder / "codes.npy").stat().st_mtime_ns == written
    space = opened_slab(coast, lambda opened: opened.spaces()["sense"].space.id)
    opened_slab(coast, lambda opened: [live.slab.forget_vectors(space) for live in opened.slabs])
    assert group_folders(coast) == []
    assert len(coast.memory.groups.held_keys()) == 0


def test_damaged_groups_are_made_anew(coast: Workbench):
    before = keys(asked(coast, 0.2))
    (folder,) = group_folders(coast)
    (folder / "codes.npy").write_bytes(b"not an array")
    coast.memory.groups.let_go(lambda _: True)
    coast.memory.lists.let_go(lambda _: True)
    assert keys(asked(coast, 0.2)) == before


def test_records_that_come_are_put_around_the_middles_that_are_there(coast: Workbench, tmp_path: Path):
    asked(coast, 0.2)
    (before,) = (read_groups(one) for one in group_folders(coast))
    load_rows(coast.pool, tmp_path, [{"id": "r999", "title": "lantern lantern lantern", "kind": "bell"}])
    asked(coast, 0.2)
    assert "r999" in keys(asked(coast, 0.2))
    assert before is not None
    now = [groups for one in group_folders(coast) if (groups := read_groups(one)) is not None]
    assert all((one.middles == before.middles).all() for one in now)
    assert sum(one.rows.size for one in now) in (240, 241)


def test_they_are_made_in_a_process_of_their_own_where_there_are_any(coast: Workbench):
    near = keys(asked(coast, 0.2))
    coast.memory.groups.let_go(lambda _: True)
    coast.memory.lists.let_go(lambda _: True)
    (folder,) = group_folders(coast)
    codes = np.load(folder / "codes.npy")
    for file in folder.iterdir():
        file.unlink()
    processes = Processes(str(coast.pool.conninfo))
    elsewhere = Workbench(coast.pool, coast.index_folder, processes=processes)
    try:
        assert keys(asked(elsewhere, 0.2)) == near
    finally:
        processes.stop()
    assert (np.load(folder / "codes.npy") == codes).all()


def test_a_measurement_says_so_and_can_be_asked_exactly(coast: Workbench):
    queries = "1\tlantern\n2\tship in fog\n3\trope\n"
    put_judged_set(
        coast, COLLECTION, "readers", queries_in(queries, "queries"), judgments_in("1 0 r001 3\n2 0 r004 2\n", "grades")
    )
    ndcg = [measure("ndcg@10")]
    near = measure_ranker(coast, COLLECTION, choice(0.2), "readers", ndcg)
    asked_exactly = measure_ranker(coast, COLLECTION, choice(0.2, exactly=True), "readers", ndcg)
    exact = measure_ranker(coast, COLLECTION, choice(None), "readers", ndcg)
    assert near.notes == [f"{SAID} (3 queries)"]
    assert asked_exactly.notes == []
    assert asked_exactly.measured.per_query == exact.measured.per_query


def test_where_nothing_is_asked_near_enough_exactly_changes_nothing(coast: Workbench):
    def work(opened: OpenCollection) -> bool:
        plain = coast.choose(opened.collection, choice(None))
        return coast.choose(opened.collection, choice(None, exactly=True)) is plain

    assert coast.with_collection(COLLECTION, work)


def test_another_share_is_another_list(coast: Workbench):
    one, other = asked(coast, 0.05, "ship in a storm"), asked(coast, 1.0, "ship in a storm")
    assert one.notes != other.notes
    assert keys(other) == keys(asked(coast, None, "ship in a storm"))


def test_what_is_missed_is_told_why_and_that_asking_exactly_would_help(coast: Workbench):
    def first_missed(opened: OpenCollection) -> tuple[str, str] | None:
        exact, near = (coast.choose(opened.collection, choice(one)).ranker for one in (None, 0.01))
        for query in map(" ".join, combinations(THINGS, 2)):
            found = [keys(find(opened, ranker, Question(query), 20, 0, [])) for ranker in (exact, near)]
            for key in found[0]:
                if key not in found[1]:
                    return query, key
        return None

    missed = coast.with_collection(COLLECTION, first_missed)
    assert missed is not None
    query, key = missed
    told = coast.with_collection(COLLECTION, lambda opened: why_not(coast, opened, choice(0.01), Question(query), key))
    assert any("lies in a group of vectors that was not looked through" in one for one in told.shut_out)
    assert "ask the space sense exactly" in [one.words for one in told.suggestions]
