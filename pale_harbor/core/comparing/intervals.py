"""How far a mean could be off because the judged queries are only some of all: bootstrap intervals."""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import Floats

RESAMPLES: Final = 10_000
LEVEL: Final = 0.95

# Samples of more queries are drawn anew each time, so many at once: a thousand queries fill 40 MB.
_MOST_KEPT_QUERIES: Final = 500
_BLOCK: Final = 500


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
    means = np.concatenate([_means(drawn, values, weights) for drawn in _samples(values.size, seed)])
    low, high = np.quantile(means, [(1 - LEVEL) / 2, (1 + LEVEL) / 2])
    return Interval(float(low), float(high))


def _means(drawn: NDArray[np.float32], values: Floats, weights: Floats | None) -> NDArray[np.float64]:
    """The mean of each sample: float64 (samples,)."""
    if weights is None:
        return drawn @ values / values.size
    totals = drawn @ weights
    return np.divide(drawn @ (values * weights), totals, out=np.zeros(drawn.shape[0]), where=totals > 0)


def _samples(count: int, seed: int) -> Iterator[NDArray[np.float32]]:
    """How often each query is in each sample, in blocks of samples: float32 (samples of the block, queries)."""
    if count <= _MOST_KEPT_QUERIES:
        yield _samples_at_once(count, seed)
        return
    rng = np.random.default_rng(seed)
    for _ in range(0, RESAMPLES, _BLOCK):
        yield _counts_of_draws(rng.integers(0, count, (_BLOCK, count)), count)


@lru_cache(maxsize=4)
def _samples_at_once(count: int, seed: int) -> NDArray[np.float32]:
    """All samples at once, kept for the next ranker: of few queries, so that four of them take 80 MB at the most."""
    rng = np.random.default_rng(seed)
    drawn = _counts_of_draws(rng.integers(0, count, (RESAMPLES, count)), count)
    drawn.setflags(write=False)
    return drawn


def _counts_of_draws(places: NDArray[np.int64], count: int) -> NDArray[np.float32]:
    cells = (places + np.arange(places.shape[0])[:, None] * count).ravel()
    return np.bincount(cells, minlength=places.size).reshape(places.shape).astype(np.float32)
