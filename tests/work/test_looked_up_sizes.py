"""What queries that were looked up are said to take up in memory, and what they do."""

import gc
import tracemalloc
from itertools import combinations
from pathlib import Path

import pytest

from pale_harbor.core.query import parse_query
from pale_harbor.core.ranking.looked_up import LookedUp
from pale_harbor.core.ranking.plan import plan_of
from pale_harbor.core.text import chain_of
from pale_harbor.formats.ranker.document import ranker_document
from pale_harbor.formats.ranker.reading import ranker_of
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.workbench import Workbench
from tests.delivery import READINGS, open_market

WORDS = "smoked eel traps rope twine yard reliable rent complained closed owes since until candlemas".split()


@pytest.mark.parametrize("words", [1, 2, 3, 4])
def test_they_are_told_to_take_up_about_what_they_do(bench: Workbench, tmp_path: Path, words: int):
    market = open_market(bench, tmp_path)
    ranker = ranker_of(ranker_document({"readings": READINGS}), chain_of)
    queries = [" ".join(own) for own in combinations(WORDS, words)][:300]

    def taken(opened: OpenCollection) -> float:
        def look_up(query: str) -> LookedUp:
            return opened.looked_up(plan_of(parse_query(query, opened.field_names), ranker))

        # What single words find is kept apart, once.
        look_up(" ".join(WORDS))
        tracemalloc.start()
        try:
            before, _ = tracemalloc.get_traced_memory()
            held = [look_up(query) for query in queries]
            gc.collect()
            after, _ = tracemalloc.get_traced_memory()
        finally:
            tracemalloc.stop()
        return sum(one.size_bytes for one in held) / (after - before)

    assert 0.6 < market.with_collection("market", taken) < 1.7
