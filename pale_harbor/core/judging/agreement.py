"""How far judges agree beyond what chance would give: 1 is always, 0 is no more than by chance, below 0 is less."""

from collections.abc import Iterable, Mapping, Sequence
from itertools import chain
from typing import Final

import numpy as np

GRADES: Final = 4


def weighted_kappa(pairs: Sequence[tuple[int, int]]) -> float | None:
    """Cohen's kappa of two judges, a disagreement weighing by the square of its distance.

    1 − Σ w·observed / Σ w·expected, w = (i − j)². None where nothing is shared, or where both give one and the same
    grade throughout, so that chance alone would agree always.
    Source: J. Cohen, "Weighted Kappa", 1968.

    >>> round(weighted_kappa([(0, 0), (3, 3), (1, 2)]), 4)
    0.8966
    """
    if not pairs:
        return None
    observed = np.zeros((GRADES, GRADES))
    for first, second in pairs:
        observed[first, second] += 1
    observed /= len(pairs)
    expected = np.outer(observed.sum(axis=1), observed.sum(axis=0))
    distance = (np.arange(GRADES)[:, None] - np.arange(GRADES)) ** 2
    by_chance = float(np.sum(distance * expected))
    return 1 - float(np.sum(distance * observed)) / by_chance if by_chance else None


def krippendorff_alpha(units: Iterable[Sequence[int]], grades: int = GRADES) -> float | None:
    """Krippendorff's alpha for ordered grades: any number of judges, grades may be missing.

    units: for each record the grades that it got, below `grades`; those with fewer than two tell nothing.
    1 − observed / expected disagreement over pairs of grades, a pair weighing (Σ_{g=c..k} n_g − (n_c + n_k) / 2)².
    None where nothing is shared or only one grade was ever given.
    Source: K. Krippendorff, "Computing Krippendorff's Alpha-Reliability", 2011, ordinal metric.

    >>> krippendorff_alpha([[1, 1], [2, 2], [3, 3]])
    1.0
    """
    shared = [given for given in units if len(given) > 1]
    sizes = np.array([len(given) for given in shared], np.int64)
    places = np.repeat(np.arange(sizes.size), sizes) * grades + np.fromiter(chain.from_iterable(shared), np.int64)
    counts = np.bincount(places, minlength=sizes.size * grades).reshape(sizes.size, grades)
    # Each unit's pairs of grades, those of a grade with itself left out, weighing one for each grade in all.
    weighed = counts / (sizes - 1)[:, None]
    together = weighed.T @ counts - np.diag(weighed.sum(axis=0))
    totals = together.sum(axis=1)
    pairs = totals.sum()
    if pairs < 2:
        return None
    # Σ_{g=c..k} n_g − (n_c + n_k) / 2 is the distance between the middles of two stretches of a row.
    middles = np.cumsum(totals) - totals / 2
    distance = (middles[:, None] - middles) ** 2
    by_chance = float(np.sum(distance * np.outer(totals, totals)))
    return 1 - float(pairs - 1) * float(np.sum(distance * together)) / by_chance if by_chance else None


def agreement(units: Iterable[Sequence[int]], judges: int) -> float | None:
    """The figure that fits: weighted kappa for two judges, Krippendorff's alpha for more.

    units: for each record the grades in the judges' order, only of those who gave one.
    """
    shared = [tuple(grades) for grades in units if len(grades) > 1]
    if judges == 2:
        return weighted_kappa([(grades[0], grades[1]) for grades in shared])
    return krippendorff_alpha(shared)


def drifts(given: Iterable[Mapping[str, int]]) -> dict[str, tuple[float, int]]:
    """By judge: how much higher they grade than the others on the records that both saw, on average, and on how many.

    given: for each record the grades by judge. Judges who shared nothing are left out.

    >>> drifts([{"Ada": 3, "Bo": 1}, {"Ada": 2}])
    {'Ada': (2.0, 1), 'Bo': (-2.0, 1)}
    """
    gaps: dict[str, list[float]] = {}
    for grades in given:
        total, others = sum(grades.values()), len(grades) - 1
        if others:
            for judge, grade in grades.items():
                gaps.setdefault(judge, []).append(grade - (total - grade) / others)
    return {judge: (sum(own) / len(own), len(own)) for judge, own in gaps.items()}


def widest_gap(grades: Iterable[int]) -> int:
    """How far apart the grades of one record are."""
    known = list(grades)
    return max(known) - min(known) if known else 0
