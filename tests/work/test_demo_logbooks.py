"""The demo's scanned pages: what its rankers find of what the machine read wrong."""

import orjson
import pytest

from pale_harbor.core.measures import measure
from pale_harbor.store.collections.collections import collection_named
from pale_harbor.store.records.records import record_count
from pale_harbor.work.demo_logbooks import FOLDER, FORGIVING, JUDGED_SET, PLAIN, load_logbooks
from pale_harbor.work.measuring.measuring import measure_ranker
from pale_harbor.work.records.reading_quality import reading_quality
from pale_harbor.work.workbench import RankerChoice, Workbench

SHARE = 0.15


@pytest.fixture
def loaded(bench: Workbench) -> Workbench:
    assert load_logbooks(bench)
    assert not load_logbooks(bench)
    return bench


def test_sixty_pages_twenty_queries_and_what_forgiving_them_gives(loaded: Workbench):
    with loaded.pool.connection() as connection:
        assert record_count(connection, collection_named(connection, "logbooks").id) == 60
    queries = [orjson.loads(line) for line in (FOLDER / "queries.jsonl").read_text("utf-8").splitlines()]
    assert len(queries) == 20
    assert all("scanned page" in one["tags"] for one in queries)
    gains = [
        measure_ranker(loaded, "logbooks", RankerChoice(name), JUDGED_SET, [measure("ndcg@10")]).measured.means[
            "ndcg@10"
        ]
        for name in (PLAIN, FORGIVING)
    ]
    assert gains[1] - gains[0] >= SHARE


def test_the_long_s_is_learnt_from_the_pages_themselves(loaded: Workbench):
    first = reading_quality(loaded.pool, "logbooks").confusions[0]
    assert (first.read, first.meant) == ("f", "s")
