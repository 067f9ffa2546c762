"""Several at once: loads, searches and changes never see half of one another."""

from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

import pytest

from pale_harbor.errors import RecordsChanged, Unavailable
from pale_harbor.formats.ranker.document import RankerDocument
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.records import record_count
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import file_of, load_path


def load(bench: Workbench, path: Path) -> None:
    load_path(bench.pool, path)


def keys(bench: Workbench, query: str) -> list[str]:
    def work(opened: OpenCollection) -> list[str]:
        ranker = bench.choose(opened.collection, RankerChoice()).ranker
        return [result.key for result in find(opened, ranker, Question(query), 100).results]

    return bench.with_collection("coast", work)


def test_loads_at_the_same_time_all_go_in(bench: Workbench, tmp_path: Path):
    paths = [
        file_of(tmp_path, name=f"{part}.jsonl", rows=[{"id": f"{part}-{i}", "title": "fog"} for i in range(50)])
        for part in range(6)
    ]
    with ThreadPoolExecutor(6) as several:
        list(several.map(partial(load, bench), paths))
    with bench.pool.connection() as connection:
        kept = collection_named(connection, "coast")
        assert record_count(connection, kept.id) == 300
        assert kept.revision == 6


def test_a_search_sees_the_records_of_one_moment(bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument):
    """Every load says one word in all records at once; a search must never find it in some only."""
    load(
        bench,
        file_of(tmp_path, name="first.jsonl", rows=[{"id": str(i), "title": "tide", "text": "x"} for i in range(40)]),
    )
    bench.put_ranker("coast", "first", simple_ranker)

    def change() -> None:
        for word in ("fog", "tide", "bell", "tide") * 4:
            rows: list[dict[str, object]] = [{"id": str(i), "title": word, "text": "x"} for i in range(40)]
            load(bench, file_of(tmp_path, name="next.jsonl", rows=rows))

    with ThreadPoolExecutor(2) as several:
        changing = several.submit(change)
        counts: set[int] = set()
        while not changing.done():
            counts.add(len(keys(bench, "tide")))
        changing.result()
    assert counts <= {0, 40}
    assert len(keys(bench, "tide")) == 40


def test_searches_at_the_same_time_do_not_disturb_one_another(
    bench: Workbench, tmp_path: Path, simple_ranker: RankerDocument
):
    words = ["fog", "bell", "lamp", "tide", "rope"]
    rows: list[dict[str, object]] = [{"id": f"{i:03}", "title": words[i % 5], "text": words[i % 3]} for i in range(200)]
    load(bench, file_of(tmp_path, name="rows.jsonl", rows=rows))
    bench.put_ranker("coast", "first", simple_ranker)
    long_query = " ".join(f"{word} other{i}" for i, word in enumerate(words * 4))
    queries = [*words, "fog bell", long_query] * 6
    alone = [keys(bench, query) for query in queries]
    with ThreadPoolExecutor(8) as several:
        assert list(several.map(partial(keys, bench), queries)) == alone


def test_records_that_never_hold_still_are_told_so(bench: Workbench, tmp_path: Path):
    load(bench, file_of(tmp_path, name="rows.jsonl", rows=[{"id": "a"}]))

    def never(_: OpenCollection) -> None:
        raise RecordsChanged

    with pytest.raises(Unavailable, match='The records of "coast" keep changing'):
        bench.with_collection("coast", never)
