"""Tuning proper: the best setting on some queries, the simplest as good within luck, and what holds held out."""

from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from math import sqrt
from typing import Protocol

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.tuning.dials import Dial, Setting, distance, standing, turned
from pale_harbor.core.tuning.searching import UNFIT, OutOfTime, Way
from pale_harbor.core.tuning.ways import searching

# Values of settings by query: float64 (queries,) each. Asked for the same setting again it gives the same. May raise
# OutOfTime, but never for a single setting.
Measuring = Callable[[Sequence[Setting]], Sequence[FloatArray]]
# Whether a setting keeps all rails on the queries of a mask.
Fitting = Callable[[Setting, Mask], bool]


class Watch(Protocol):
    """Who sees to it that a tuning ends."""

    def begins(self, part: int, parts: int) -> bool:
        """A part begins: 0 on all queries, then one without each fold. Whether it is still wanted."""
        ...

    def goes_on(self) -> bool:
        """Whether the part that is under way has time for more settings."""
        ...


@dataclass(frozen=True, slots=True, eq=False)
class Search:
    """How is searched. weights: of queries, float64 (queries,); most: settings to be tried for each fold."""

    way: Way
    most: int
    seed: int
    weights: FloatArray


@dataclass(frozen=True, slots=True)
class Found:
    """What a search came to. best: the best setting; simplest: the simplest that is as good within luck.

    tried: every setting that keeps the rails, with its mean on the queries that it was tuned on.
    """

    best: Setting
    simplest: Setting
    tried: dict[Setting, float]


@dataclass(frozen=True, slots=True, eq=False)
class Tuned:
    """found: on all queries; folds: what was found without each fold's queries, of those that there was time for.

    after: the value of each query by the setting that was found without it, float64 (queries,); held_out: of which
    queries it is known, bool (queries,).
    """

    found: Found
    folds: list[Found]
    after: FloatArray
    held_out: Mask


def tune(
    dials: Sequence[Dial], measuring: Measuring, fits: Fitting, folds: IntArray, search: Search, watch: Watch
) -> Tuned:
    """Tunes on all queries, and once without each fold: what comes of the same procedure where nobody looked.

    folds: the fold of each query, int64 (queries,). Source: S. Varma and R. Simon, "Bias in error estimation when using
    cross-validation for model selection", 2006.
    """
    parts = int(folds.max()) + 2
    known = np.zeros(folds.size, np.bool_)
    watch.begins(0, parts)
    found = find(dials, measuring, fits, ~known, search, watch)
    without: list[Found] = []
    after = np.zeros(folds.size)
    for fold in range(parts - 1):
        if not watch.begins(fold + 1, parts):
            break
        held_out = folds == fold
        own = find(dials, measuring, fits, ~held_out, search, watch)
        (values,) = measuring([own.simplest])
        after[held_out] = values[held_out]
        known |= held_out
        without.append(own)
    return Tuned(found, without, after, known)


def find(
    dials: Sequence[Dial], measuring: Measuring, fits: Fitting, queries: Mask, search: Search, watch: Watch
) -> Found:
    """Searches on some queries. Where no setting keeps the rails, what stands is found."""
    weights = search.weights[queries]
    rows: dict[Setting, FloatArray] = {}
    tried: dict[Setting, float] = {}

    def means(settings: Sequence[Setting]) -> list[float]:
        for setting, values in zip(settings, measuring(settings), strict=True):
            if setting not in rows:
                rows[setting] = values[queries]
                if fits(setting, queries):
                    tried[setting] = mean_of(rows[setting], weights)
        return [tried.get(setting, UNFIT) for setting in settings]

    here = standing(dials)
    means([here])
    steps = searching(search.way, dials, search.most, search.seed)
    batch = next(steps, None)
    with suppress(StopIteration, OutOfTime):
        while batch and watch.goes_on():
            batch = steps.send(means(batch))
    if not tried:
        return Found(here, here, {})
    best = max(tried, key=lambda one: (tried[one], *(-part for part in distance(dials, one))))
    simplest = _simplest(dials, best, means, rows, weights, tried, watch)
    return Found(best, simplest, tried)


def _simplest(
    dials: Sequence[Dial],
    best: Setting,
    means: Callable[[Sequence[Setting]], list[float]],
    rows: dict[Setting, FloatArray],
    weights: FloatArray,
    tried: dict[Setting, float],
    watch: Watch,
) -> Setting:
    """The simplest setting within a standard error of the best. Dials are turned back one after the other to find it.

    Source: L. Breiman, J. Friedman, R. Olshen, C. Stone, "Classification and Regression Trees", 1984, section 3.4.3.
    """

    def is_as_good(setting: Setting) -> bool:
        return as_good_within_luck(rows[best], rows[setting], weights)

    here = best
    while watch.goes_on():
        back = [(*here[:i], dials[i].standing, *here[i + 1 :]) for i in turned(dials, here)]
        try:
            means(back)
        except OutOfTime:
            break
        good = [one for one in back if one in tried and is_as_good(one)]
        if not good:
            break
        here = max(good, key=lambda one: tried[one])
    as_good = [one for one in tried if is_as_good(one)]
    return min(as_good, key=lambda one: (*distance(dials, one), -tried[one]))


def as_good_within_luck(best: FloatArray, other: FloatArray, weights: FloatArray) -> bool:
    """Whether the mean of `other` is at most one standard error of the paired differences below that of `best`.

    >>> as_good_within_luck(np.array([1.0, 0.0]), np.array([0.0, 0.5]), np.ones(2))
    True
    >>> as_good_within_luck(np.array([0.5, 0.5]), np.array([0.4, 0.4]), np.ones(2))
    False
    """
    lost = best - other
    total = float(weights.sum())
    if total <= 0 or lost.size < 2:
        return not lost.any()
    shares = weights / total
    mean = float(shares @ lost)
    variance = float(shares @ (lost - mean) ** 2) * lost.size / (lost.size - 1)
    # Of weighted queries fewer count, in effect.
    error = sqrt(variance * float(shares @ shares))
    return mean <= error + 1e-12


def mean_of(values: FloatArray, weights: FloatArray) -> float:
    """The weighted mean; 0 where nothing weighs."""
    total = float(weights.sum())
    return float(values @ weights) / total if total > 0 else 0.0
