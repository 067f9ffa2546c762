"""How far a mean could be off because the judged queries are only some of all: bootstrap intervals."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]

RESAMPLES: Final = 10_000
LEVEL: Final = 0.95


@dataclass(frozen=True, slots=True)
class Interval:
    low: float
    high: float


def bootstrap_interval(values: Floats, weights: Floats | None = None, seed: int = 0) -> Interval:
    """The middle 95 % of the means of samples drawn with replacement from the queries.

    values: float (queries,); weights: of queries, all alike where None. The same seed draws the same samples, so that
    rankers measured on the same queries are compared on the same samples.
    Source: B. Efron, "Bootstrap Methods: Another Look at the Jackknife", 1979; the percentile interval.

    >>> bootstrap_interval(np.array([0.5, 0.5]))
    Interval(low=0.5, high=0.5)
    """
    if not values.size:
        return Interval(0.0, 0.0)
    drawn = _drawn(values.size, seed)
    if weights is None:
        means = drawn @ values / values.size
    else:
        totals = drawn @ weights
        means = np.divide(drawn @ (values * weights), totals, out=np.zeros(RESAMPLES), where=totals > 0)
    low, high = np.quantile(means, [(1 - LEVEL) / 2, (1 + LEVEL) / 2])
    return Interval(float(low), float(high))


@lru_cache(maxsize=8)
def _drawn(count: int, seed: int) -> NDArray[np.float32]:
    """How often each query is in each sample; float32 (RESAMPLES, queries)."""
    rng = np.random.default_rng(seed)
    places = rng.integers(0, count, (RESAMPLES, count))
    cells = (places + np.arange(RESAMPLES)[:, None] * count).ravel()
    drawn = np.bincount(cells, minlength=RESAMPLES * count).reshape(RESAMPLES, count).astype(np.float32)
    drawn.setflags(write=False)
    return drawn
