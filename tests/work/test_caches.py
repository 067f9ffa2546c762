"""What is kept in memory and on disk stays within its budget, and is never anything but what it was made of."""

import os
import threading
from pathlib import Path
from typing import Any

import numpy as np
import psutil
import pytest

from pale_harbor.core.comparing import intervals
from pale_harbor.errors import BadInput, Cancelled
from pale_harbor.formats.index_files import let_go_of_indexes
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.settings import settings
from pale_harbor.store import database
from pale_harbor.store.database import Pool
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.completing import completions_for
from pale_harbor.work.ranking.correcting import did_you_mean
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.pictures import load_pictures
from pale_harbor.work.running.caches import Cache, Memory
from pale_harbor.work.running.wanted import wanted_while
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows


def texts_cache(budget: int) -> Cache[str, str]:
    return Cache("texts", "texts of a test", budget, len)


def test_what_begins_alike_goes_together_and_nothing_else_does():
    cache: Cache[tuple[str, int], str] = Cache("texts", "texts of a test", 10, len)
    for number, first in enumerate("abab"):
        cache.put((first, number), "12")
    cache.put(("a", 0), "123")
    # Two go for want of room, one of them under a name that is let go of later.
    cache.put(("a", 9), "12345")
    assert set(cache.held_keys()) == {("b", 3), ("a", 0), ("a", 9)}
    cache.let_go_of("a")
    assert cache.held_keys() == [("b", 3)]
    cache.let_go_of("a")
    cache.let_go_of("nobody")
    cache.put(("a", 0), "1")
    assert cache.held_keys() == [("b", 3), ("a", 0)]


def test_the_least_recently_used_goes_when_the_budget_is_passed():
    cache = texts_cache(10)
    cache.put("a", "1234")
    cache.put("b", "123456")
    assert cache.held_keys() == ["a", "b"]
    assert cache.get("a") == "1234"
    cache.put("c", "1")
    assert sorted(cache.held_keys()) == ["a", "c"]
    state = cache.state()
    assert (state.values, state.held_bytes, state.budget_bytes) == (2, 5, 10)


def test_what_is_larger_than_the_budget_is_kept_alone():
    cache = texts_cache(10)
    cache.put("a", "1234")
    cache.put("large", "x" * 50)
    assert cache.held_keys() == ["large"]
    assert cache.get("large") == "x" * 50


def test_a_value_that_has_grown_counts_with_its_new_size():
    cache: Cache[str, list[int]] = Cache("lists", "lists of a test", 10, len)
    one, other = [0] * 4, [0] * 4
    cache.put("one", one)
    cache.put("other", other)
    other += [0] * 3
    cache.put("other", other)
    assert cache.held_keys() == ["other"]


def test_who_asks_while_something_is_made_waits_for_it():
    cache = texts_cache(100)
    begun, go_on = threading.Event(), threading.Event()
    made: list[str] = []

    def make() -> str:
        begun.set()
        assert go_on.wait(10)
        made.append("x")
        return "x"

    found: list[str] = []
    threads = [threading.Thread(target=lambda: found.append(cache.get_or_make("a", make))) for _ in range(4)]
    for thread in threads:
        thread.start()
    assert begun.wait(10)
    # What is made under another name need not wait.
    assert cache.get_or_make("b", lambda: "y") == "y"
    go_on.set()
    for thread in threads:
        thread.join(10)
    assert (found, made) == (["x"] * 4, ["x"])


def test_what_could_not_be_made_is_tried_again():
    cache = texts_cache(100)

    def fail() -> str:
        raise BadInput("not now")

    with pytest.raises(BadInput):
        cache.get_or_make("a", fail)
    assert cache.get_or_make("a", lambda: "x") == "x"


def index_folder(root: Path, name: str, size: int, used: int) -> Path:
    folder = root / "collection" / "slab" / (name * 32)
    folder.mkdir(parents=True)
    (folder / "postings.npy").write_bytes(b"x" * size)
    os.utime(folder, (used, used))
    return folder


def test_index_files_are_let_go_by_last_use_until_they_fit(tmp_path: Path):
    old, older, new = (index_folder(tmp_path, n, 100, used) for n, used in (("a", 20), ("b", 10), ("c", 30)))
    keys = tmp_path / "collection" / "slab" / "keys"
    keys.mkdir()
    (keys / "letters.npy").write_bytes(b"x" * 10_000)
    assert let_go_of_indexes(tmp_path, 300) == 0
    assert let_go_of_indexes(tmp_path, 299) == 1
    assert [one.exists() for one in (old, older, new, keys)] == [True, False, True, True]
    # The one that was just asked for stays, however large it is.
    assert let_go_of_indexes(tmp_path, 1) == 1
    assert [one.exists() for one in (old, new)] == [False, True]


def document(weight: float = 1.0, chain: str = "words > lower", **more: Any):
    return ranker_document({"readings": [{"field": "title", "chain": chain, "weight": weight}], **more})


def scores(bench: Workbench, choice: RankerChoice, query: str = "fog") -> list[tuple[str, float]]:
    def work(opened: Any) -> list[tuple[str, float]]:
        found = find(opened, bench.choose(opened.collection, choice).ranker, Question(query), 10)
        return [(one.key, one.score) for one in found.results]

    return bench.with_collection("coast", work)


@pytest.fixture
def coast(bench: Workbench, tmp_path: Path) -> Workbench:
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell"}, {"id": "b", "title": "Fog"}])
    return bench


def test_a_new_version_of_a_saved_chain_is_what_a_draft_reads_from_then_on(coast: Workbench):
    coast.put_chain("coast", "own", "words > lower")
    choice = RankerChoice(document=document(chain="@own"))
    assert len(scores(coast, choice)) == 2
    coast.put_chain("coast", "own", "whole > lower")
    assert [key for key, _ in scores(coast, choice)] == ["b"]


def test_a_new_version_of_a_ranker_and_another_default_are_what_is_searched_with(coast: Workbench):
    coast.put_ranker("coast", "first", document(weight=1))
    before = scores(coast, RankerChoice("first"))
    coast.put_ranker("coast", "first", document(weight=2))
    assert [score for _, score in scores(coast, RankerChoice("first"))] == [2 * score for _, score in before]
    assert scores(coast, RankerChoice("first", 1)) == before
    assert scores(coast, RankerChoice()) == scores(coast, RankerChoice("first"))


def test_a_record_that_changed_is_found_by_what_it_says_now(coast: Workbench, pool: Pool, tmp_path: Path):
    choice = RankerChoice(document=document())
    for _ in range(3):
        assert len(scores(coast, choice)) == 2
    load_rows(pool, tmp_path, [{"id": "b", "title": "Lamp"}])
    assert [key for key, _ in scores(coast, choice)] == ["a"]
    assert [key for key, _ in scores(coast, choice, "lamp")] == ["b"]


def test_little_memory_changes_no_list(coast: Workbench, tmp_path: Path):
    poor = Workbench(coast.pool, tmp_path / "poor", Memory(1_000, 1_000, 1_000))
    for weight in (1.0, 2.0, 3.0, 1.0):
        choice = RankerChoice(document=document(weight, equals_by=["title"], filters=[{"field": "id", "has": True}]))
        assert scores(poor, choice) == scores(coast, choice)


def test_what_is_of_a_dropped_collection_is_let_go(coast: Workbench):
    scores(coast, RankerChoice(document=document()))
    assert coast.memory.indexes.held_keys()
    coast.drop_collection("coast")
    held = {state.name: state.values for state in coast.memory.state()}
    assert [held[name] for name in ("indexes", "orders", "looked up", "columns")] == [0, 0, 0, 0]


def test_samples_of_many_queries_are_drawn_in_blocks_and_are_the_same(monkeypatch: pytest.MonkeyPatch):
    values = np.random.default_rng(1846).random(40)
    weights = np.arange(40.0)
    whole = intervals.bootstrap_interval(values), intervals.bootstrap_interval(values, weights)
    monkeypatch.setattr(intervals, "_MOST_KEPT_QUERIES", 39)
    assert (intervals.bootstrap_interval(values), intervals.bootstrap_interval(values, weights)) == whole


@pytest.mark.parametrize(("written", "fits"), [("10000000", True), ("9999999", False), ("1e9", False)])
def test_a_budget_is_a_number_of_bytes(written: str, fits: bool, monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setenv("PALEHARBOR_MEMORY_BYTES", written)
    if fits:
        assert settings().memory_bytes == 10_000_000
    else:
        with pytest.raises(BadInput, match=r"PALEHARBOR_MEMORY_BYTES: is a number of bytes from 10,000,000 on; here"):
            settings()


def test_the_caches_share_the_whole_budget_and_no_more():
    states = Memory(budget_bytes=100_000).state()
    assert sum(one.budget_bytes for one in states if one.name not in ("indexes", "groups")) == 100_000
    assert len({one.name for one in states}) == len(states)


def test_what_a_page_asks_for_at_every_query_does_not_push_one_another_out(coast: Workbench, tmp_path: Path):
    # Of a hundred thousand records each of both is more than half of what either may take up.
    poor = Workbench(coast.pool, tmp_path / "poor", Memory(budget_bytes=1_000))

    def both(opened: OpenCollection) -> None:
        ranker = poor.choose(opened.collection, RankerChoice()).ranker
        for _ in range(2):
            completions_for(opened, ranker, "fog", 10)
            did_you_mean(opened, ranker, Question("fogg bell"), lambda _: 1)

    poor.with_collection("coast", both)
    made = {one.name: one.made for one in poor.memory.state()}
    assert (made["completions"], made["correction words"]) == (1, 1)


def test_a_connection_is_checked_when_nobody_used_it_for_a_second(pool: Pool, monkeypatch: pytest.MonkeyPatch):
    checked: list[float] = []
    now = [1e9]
    monkeypatch.setattr(database, "monotonic", lambda: now[0])

    def check(_: object) -> None:
        checked.append(now[0])

    monkeypatch.setattr(database.ConnectionPool, "check_connection", check)
    with pool.connection() as connection:
        checked.clear()
        database._CHECKED.pop(connection, None)  # pyright: ignore[reportPrivateUsage]
        for now[0] in (1e9, 1e9 + 0.5, 1e9 + 0.999, 1e9 + 1, 1e9 + 1.5):
            database._check_if_idle(connection)  # pyright: ignore[reportPrivateUsage]
    assert checked[:2] == [1e9, 1e9 + 1]


def test_a_picture_of_two_megabytes_is_kept_and_a_larger_one_is_not(coast: Workbench, tmp_path: Path):
    folder = tmp_path / "pictures"
    folder.mkdir()
    (folder / "bell.png").write_bytes(b"x" * 2_000_000)
    assert load_pictures(coast.pool, "coast", folder) == 1
    (folder / "horn.png").write_bytes(b"x" * 2_000_001)
    with pytest.raises(BadInput, match="too large for a list of results; none was kept"):
        load_pictures(coast.pool, "coast", folder)


def test_a_searched_collection_keeps_no_file_open(bench: Workbench, tmp_path: Path):
    load_rows(bench.pool, tmp_path, [{"id": "a", "title": "Fog bell", "text": "It rang."}])
    chosen = RankerChoice()
    process = psutil.Process()

    def searched(opened: OpenCollection) -> int:
        find(opened, bench.choose(opened.collection, chosen).ranker, Question("fog"), 1)
        return process.num_fds()

    before = process.num_fds()
    held = [bench.with_collection("coast", searched) for _ in range(3)]
    # Connections to the database may have come, and no index file.
    assert max(held) - before < 8
    assert len(bench.memory.indexes.held_keys()) >= 2


def test_whoever_waits_for_what_another_makes_may_go_away():
    cache, go_on, making = texts_cache(1_000), threading.Event(), threading.Event()

    def make() -> str:
        making.set()
        assert go_on.wait(20)
        return "fog"

    maker = threading.Thread(target=cache.get_or_make, args=["a", make])
    maker.start()
    assert making.wait(20)
    with wanted_while(lambda: False), pytest.raises(Cancelled):
        cache.get_or_make("a", lambda: "bell")
    go_on.set()
    maker.join(20)
    assert cache.get_or_make("a", lambda: "bell") == "fog"
