"""How fast score sheets are weighed: turns of weights over queries with so many candidates, on one core and on two."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from benchmarks.figures import Figures
from benchmarks.in_turn import best_of
from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.sheets.scoring import summed, tops

QUERIES, READINGS, TURNS, TOP, ROUNDS = 124, 4, 33, 10, 5


def turning_figures(candidates: int) -> Figures:
    """Re-scored rankings a second: 124 queries, four readings, the first ten. candidates: of each query."""
    rng = np.random.default_rng(1787)
    sheets = [rng.gamma(1.5, 2.0, (READINGS, candidates)) for _ in range(QUERIES)]
    weights = rng.uniform(0.1, 5, (TURNS, READINGS))
    shares = np.zeros(TURNS)
    which = np.tile(np.arange(READINGS), (TURNS, 1))
    kept = np.ones(candidates, np.bool_)

    def weigh(own: list[FloatArray]) -> None:
        for columns in own:
            tops(summed(columns, which, weights, False, shares), kept, TOP)

    halves = sheets[::2], sheets[1::2]
    with ThreadPoolExecutor(2) as threads:
        ways: dict[str, Callable[[], object]] = {
            "on_one_core": lambda: weigh(sheets),
            "on_two_cores": lambda: list(threads.map(weigh, halves)),
        }
        best = best_of(ways, ROUNDS)
    figures: Figures = {"candidates": candidates}
    figures |= {name: round(QUERIES * TURNS / took * 1_000) for name, took in best.items()}
    return figures
