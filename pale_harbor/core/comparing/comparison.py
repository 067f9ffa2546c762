"""Two rankers over the same judged queries, head to head. A gain is the second's value minus the first's."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.comparing.detectable import detectable_difference, queries_needed, spread_of
from pale_harbor.core.comparing.intervals import Interval, bootstrap_interval
from pale_harbor.core.comparing.significance import paired_t_p, randomisation_p, wilcoxon_p
from pale_harbor.core.measures import weighted_mean

# A difference that shows as 0.000 is a tie.
STILL: Final = 0.0005


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """A measure of two rankers, and what can be said of the difference.

    detectable: the smallest difference that these queries would find four times in five, None for fewer than two;
    needed: how many queries would find half of it. randomisation, t, wilcoxon: p-values; the last two know no weights.
    """

    queries: int
    first: float
    second: float
    gain: float
    interval: Interval
    randomisation: float
    t: float
    wilcoxon: float
    gained: int
    lost: int
    tied: int
    detectable: float | None
    needed: int


def comparison(
    first: Mapping[str, float], second: Mapping[str, float], weights: Mapping[str, float] | None = None, seed: int = 0
) -> Comparison:
    """Compares values by query; queries that only one of them has are left out.

    >>> comparison({"a": 0.0, "b": 0.5}, {"a": 1.0, "b": 0.5}).gain
    0.5
    """
    shared = sorted(first.keys() & second.keys())
    differences = np.array([second[query] - first[query] for query in shared])
    weighing = None if weights is None else np.array([weights.get(query, 0.0) for query in shared])
    means = [weighted_mean({query: side[query] for query in shared}, weights) for side in (first, second)]
    spread = spread_of(differences)
    detectable = detectable_difference(spread, len(shared))
    return Comparison(
        queries=len(shared),
        first=means[0],
        second=means[1],
        gain=means[1] - means[0],
        interval=bootstrap_interval(differences, weighing, seed),
        randomisation=randomisation_p(differences, np.random.default_rng(seed), weighing),
        t=paired_t_p(differences),
        wilcoxon=wilcoxon_p(differences),
        gained=int(np.count_nonzero(differences >= STILL)),
        lost=int(np.count_nonzero(differences <= -STILL)),
        tied=int(np.count_nonzero(np.abs(differences) < STILL)),
        detectable=detectable if len(shared) > 1 else None,
        needed=queries_needed(spread, detectable / 2) if len(shared) > 1 and spread else 0,
    )
