"""How fast lists are measured and compared: 200 queries, 1,000 records each, beside bare look-ups of the grades."""

from collections.abc import Callable

import numpy as np

from benchmarks.figures import Figures
from benchmarks.in_turn import best_of
from pale_harbor.core.comparing import comparison, deciding_records
from pale_harbor.core.measures import USUAL_RULES, band, judged_list, measure, measure_lists

QUERIES, DEPTH, JUDGED = 200, 1_000, 40
ROUNDS = 7
SIX = [measure(name) for name in ("ndcg@10", "ap", "rr", "precision@10", "recall@100", "judged@10")]
ALL = [
    *SIX,
    *(measure(name) for name in ("ndcg_lin@10", "success@5", "err@10", "rbp", "rbp_residual", "bpref", "rprec")),
]


def measuring_figures() -> Figures:
    """The best of some rounds, in turn."""
    rng = np.random.default_rng(1851)
    lists = {f"q{i}": [f"record {number}" for number in rng.permutation(100_000)[:DEPTH]] for i in range(QUERIES)}
    others = {query: list(rng.permutation(keys)) for query, keys in lists.items()}
    grades = {
        query: {str(key): int(rng.integers(4)) for key in rng.choice(keys, JUDGED, replace=False)}
        for query, keys in lists.items()
    }
    ndcg = SIX[0]
    first, second = (
        {query: own[ndcg.name] for query, own in measure_lists(side, grades, [ndcg]).per_query.items()}
        for side in (lists, others)
    )
    ways: dict[str, Callable[[], object]] = {
        "bare_lookups_ms": lambda: [[grades[query].get(key) for key in keys] for query, keys in lists.items()],
        "six_measures_ms": lambda: measure_lists(lists, grades, SIX),
        "all_measures_ms": lambda: measure_lists(lists, grades, ALL),
        "band_of_ndcg_ms": lambda: [band(ndcg, judged_list(lists[query], grades[query])) for query in lists],
        "comparison_ms": lambda: comparison(first, second),
        "deciding_ms": lambda: deciding_records(ndcg, USUAL_RULES, lists, others, grades),
    }
    best = best_of(ways, ROUNDS)
    figures: Figures = {"queries": QUERIES, "records_each": DEPTH}
    figures |= {name: round(value, 1) for name, value in best.items()}
    figures["six_of_bare"] = round(best["six_measures_ms"] / best["bare_lookups_ms"], 1)
    return figures
