"""Is a mean difference more than luck: three tests over the differences of paired values, and what many tests cost.

All are two-sided. A p-value is how often a difference at least as far from 0 would come up if the two rankers were
alike; with no difference anywhere it is 1.
"""

from collections.abc import Sequence
from typing import Final

import numpy as np
from scipy import special

from pale_harbor.core.arrays import Floats

FLIPS: Final = 10_000
# Up to so many differences every way to flip their signs is tried.
ALL_WAYS: Final = 14
# Up to so many, without ties, ranks are counted exactly.
_EXACT_RANKS: Final = 50


def randomisation_p(differences: Floats, rng: np.random.Generator, weights: Floats | None = None) -> float:
    """How often the mean is as far from 0 when each difference gets a sign by chance.

    differences: float (queries,); weights: of queries, all alike where None. Where few differ from 0 every way is
    tried, else `FLIPS` ways drawn by chance, (1 + hits) / (1 + FLIPS).
    Source: R. A. Fisher, "The Design of Experiments", 1935; for rankers, M. Smucker et al., "A Comparison of
    Statistical Significance Tests for Information Retrieval Evaluation", 2007.

    >>> randomisation_p(np.array([1.0, 1.0]), np.random.default_rng(0))
    0.5
    """
    weighed = differences if weights is None else differences * weights
    moved = weighed[weighed != 0]
    if not moved.size:
        return 1.0
    # Sums of the same numbers in another order may differ in their last digits.
    reached = abs(float(moved.sum())) - 1e-12 * float(np.abs(moved).sum())
    if moved.size <= ALL_WAYS:
        ways = (np.arange(2**moved.size)[:, None] >> np.arange(moved.size)) & 1
        return float(np.mean(np.abs((1 - 2 * ways) @ moved) >= reached))
    signs = 2.0 * rng.integers(0, 2, (FLIPS, moved.size), dtype=np.int8) - 1
    return (1 + int(np.count_nonzero(np.abs(signs @ moved) >= reached))) / (1 + FLIPS)


def paired_t_p(differences: Floats) -> float:
    """Student's t test of paired values: t = mean / (s / √n) with n − 1 degrees of freedom.

    1 where there are fewer than two differences or none differs from 0; 0 where all are the same and not 0.
    Source: Student, "The Probable Error of a Mean", 1908.

    >>> round(paired_t_p(np.array([1.0, 2.0, 3.0])), 4)
    0.0742
    """
    count = differences.size
    if count < 2 or not differences.any():
        return 1.0
    spread = float(np.std(differences, ddof=1))
    if spread <= 1e-15 * float(np.max(np.abs(differences))):
        return 0.0
    t = float(np.mean(differences)) / (spread / np.sqrt(count))
    return float(2 * special.stdtr(count - 1, -abs(t)))


def wilcoxon_p(differences: Floats) -> float:
    """Wilcoxon's signed rank test, differences of 0 left out.

    Up to 50 differences without ties are counted exactly; else the normal approximation, corrected for ties.
    Source: F. Wilcoxon, "Individual Comparisons by Ranking Methods", 1945.

    >>> wilcoxon_p(np.array([1.0, 2.0, 3.0]))
    0.25
    """
    moved = differences[differences != 0]
    count = moved.size
    if not count:
        return 1.0
    sizes, places, times = np.unique(np.abs(moved), return_inverse=True, return_counts=True)
    # Equal sizes share the mean of their ranks.
    ranks = (np.cumsum(times) - (times - 1) / 2)[places]
    upper = float(ranks[moved > 0].sum())
    smaller = min(upper, count * (count + 1) / 2 - upper)
    if sizes.size == count and count <= _EXACT_RANKS:
        return min(1.0, 2 * float(_rank_sum_ways(count)[: int(smaller) + 1].sum()) / 2.0**count)
    mean = count * (count + 1) / 4
    variance = count * (count + 1) * (2 * count + 1) / 24 - float(np.sum(times.astype(float) ** 3 - times)) / 48
    return float(min(1.0, 2 * special.ndtr((smaller - mean) / np.sqrt(variance))))


def _rank_sum_ways(count: int) -> Floats:
    """In how many ways ranks out of 1 … count add up to 0, 1, 2 …"""
    ways = np.zeros(count * (count + 1) // 2 + 1)
    ways[0] = 1
    for rank in range(1, count + 1):
        ways[rank:] = ways[rank:] + ways[:-rank]
    return ways


def holm(p_values: Sequence[float]) -> list[float]:
    """p-values corrected for being several: the least times their count, the next times one fewer, never falling.

    Source: S. Holm, "A Simple Sequentially Rejective Multiple Test Procedure", 1979.

    >>> holm([0.01, 0.04, 0.03])
    [0.03, 0.06, 0.06]
    """
    corrected = [0.0] * len(p_values)
    least = 0.0
    for place, i in enumerate(sorted(range(len(p_values)), key=lambda i: p_values[i])):
        least = max(least, min(1.0, p_values[i] * (len(p_values) - place)))
        corrected[i] = least
    return corrected


def chance_of_one(p_value: float, looks: int) -> float:
    """How likely luck alone shows such a p-value at least once in so many looks: 1 − (1 − p)^looks.

    The looks are taken as independent, which overstates it for drafts that are much alike.

    >>> chance_of_one(0.05, 1)
    0.05
    """
    return float(-np.expm1(max(1, looks) * np.log1p(-p_value))) if p_value < 1 else 1.0
