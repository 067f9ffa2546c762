"""A slab's values are read by key or record after record; both give the same."""

from pathlib import Path

import pytest

from pale_harbor.work.collections import opened as opened_module
from pale_harbor.work.ranking.asked import Question
from pale_harbor.work.ranking.searching import find
from pale_harbor.work.records.changes import put_records, remove_records
from pale_harbor.work.workbench import RankerChoice, Workbench
from tests.loading import load_rows


@pytest.mark.parametrize("keys_at_once", [1, 3, 5_000])
def test_values_of_a_small_slab_come_by_key_and_the_dead_have_none(
    bench: Workbench, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, keys_at_once: int
):
    monkeypatch.setattr(opened_module, "_KEYS_AT_ONCE", keys_at_once)
    load_rows(bench.pool, tmp_path, [{"id": f"a{i}", "title": f"fog {i}", "n": i} for i in range(40)])

    def keys(query: str) -> list[str]:
        return bench.with_collection(
            "coast",
            lambda opened: [
                result.key
                for result in find(
                    opened, bench.choose(opened.collection, RankerChoice()).ranker, Question(query), 99
                ).results
            ],
        )

    assert len(keys("fog")) == 40
    put_records(bench.pool, "coast", [{"id": f"b{i}", "title": f"fog bell {i}"} for i in range(7)])
    remove_records(bench.pool, "coast", ["b3", "a5"])
    # A reading that is asked for only now is built for slabs whose records are partly dead.
    bench.put_chain("coast", "plain", "words > lower")
    assert sorted(keys("bell")) == [f"b{i}" for i in range(7) if i != 3]
    assert len(keys("fog")) == 45
    assert len(keys("5")) == 1
