"""What a set of queries can tell: the smallest difference it would find, and how many queries a smaller one takes."""

from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from scipy import special

# p-values below this are told as more than luck.
ALPHA: Final = 0.05
POWER: Final = 0.8
MOST_QUERIES: Final = 1_000_000


def detectable_difference(spread: float, queries: int) -> float:
    """The smallest true mean difference that a paired t test at 0.05 finds four times in five.

    (t(1 − 0.05/2) + t(0.8)) · spread / √n, with n − 1 degrees of freedom; infinite for fewer than two queries.
    spread: the standard deviation of the differences.
    Source: J. Cohen, "Statistical Power Analysis for the Behavioral Sciences", 1988.

    >>> round(detectable_difference(0.2, 100), 4)
    0.0566
    """
    if queries < 2:
        return float("inf")
    freedom = queries - 1
    return float((special.stdtrit(freedom, 1 - ALPHA / 2) + special.stdtrit(freedom, POWER)) * spread / queries**0.5)


def queries_needed(spread: float, difference: float) -> int:
    """The fewest queries with which a difference would be found; at most a million.

    >>> queries_needed(0.2, 0.0566)
    100
    """
    low, high = 2, MOST_QUERIES
    while low < high:
        middle = (low + high) // 2
        if detectable_difference(spread, middle) <= difference:
            high = middle
        else:
            low = middle + 1
    return low


def spread_of(differences: NDArray[np.floating[Any]]) -> float:
    """The standard deviation, with n − 1; 0 for fewer than two. differences: (queries,)."""
    return float(np.std(differences, ddof=1)) if differences.size > 1 else 0.0
