"""What a ranker costs: bytes of index files, and the time of a query that was not asked before."""

from collections.abc import Mapping, Sequence
from statistics import median
from time import perf_counter
from typing import Final

from pale_harbor.core.ranking import Ranker
from pale_harbor.core.tuning.rails import Cost
from pale_harbor.store.judging.judged_sets import SetQuery
from pale_harbor.work.collections.opened import OpenCollection
from pale_harbor.work.measuring.lists import ask_spaces_ahead, asked_to_measure
from pale_harbor.work.ranking.asking import answer
from pale_harbor.work.running.wanted import check_wanted
from pale_harbor.work.spaces.open_space import OpenSpace

_QUERIES: Final = 40
_ROWS: Final = 10


def index_bytes(opened: OpenCollection, ranker: Ranker) -> int:
    """The size of the index files that a ranker reads, each reading of a field once."""
    readings = {(one.field, one.chain.identity): one for one in ranker.readings if one.weight > 0}
    return sum(index.index_bytes for one in readings.values() for index in opened.indexes(one.field, one.chain))


def cost_of(opened: OpenCollection, ranker: Ranker, queries: Sequence[SetQuery]) -> Cost:
    """What a ranker costs on (at most forty of) some queries: the median time for the first ten rows.

    Raises Unavailable where a space could not be asked.
    """
    asked = queries[:: max(1, len(queries) // _QUERIES)][:_QUERIES]
    # Vectors of queries are asked for once, whoever ranks; words are looked up by each.
    spaces = ask_spaces_ahead(opened, ranker, asked)
    opened.make_ready(ranker)
    # Of two times the quicker one: what else the machine did is none of the ranker's.
    rounds = [_times(opened, ranker, asked, spaces) for _ in range(2)]
    return Cost(index_bytes(opened, ranker), median(map(min, *rounds)) if asked else 0.0)


def _times(
    opened: OpenCollection, ranker: Ranker, asked: Sequence[SetQuery], spaces: Mapping[str, OpenSpace] | None
) -> list[float]:
    fresh = opened.unremembering()
    times: list[float] = []
    try:
        for query in asked:
            check_wanted()
            began = perf_counter()
            answer(fresh, asked_to_measure(fresh, ranker, query, spaces), _ROWS)
            times.append((perf_counter() - began) * 1_000)
    finally:
        opened.memory.forget_state(fresh.state)
    return times
