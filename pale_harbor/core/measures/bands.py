"""Bands: the worst and the best value a measure could take once the unjudged records of a list are judged.

Only those are meant that the measure looks at: among the first k, or in the whole list. Every value is reached by
some grades, so a band is exact, never a guess. How: with m of the unjudged relevant, a list is best when they are
the topmost m and worst when they are the lowest m (lifting a relevant record above another never hurts any measure
here), so that trying every m finds both ends. For nDCG see `_gain_band`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np

from pale_harbor.core.arrays import FloatArray, Floats, IntArray
from pale_harbor.core.kernels import kernel
from pale_harbor.core.measures.judged_list import HIGHEST_GRADE, RELEVANT_FROM, UNJUDGED, JudgedList
from pale_harbor.core.measures.letters import most_keystrokes_saved, most_letters_saved
from pale_harbor.core.measures.measure import TELLS_OF_JUDGMENTS, Measure

# What a gain grows by from each grade to the next.
_STEPS: Final = {"ndcg": (1.0, 2.0, 4.0), "ndcg_lin": (1.0, 1.0, 1.0)}
# What they are if every unjudged record were relevant.
MOST_SAVED: Final = {"letters_saved": most_letters_saved, "keystrokes_saved": most_keystrokes_saved}


@dataclass(frozen=True, slots=True)
class Band:
    """From the worst to the best value that is possible."""

    worst: float
    best: float


def band(measure: Measure, judged: JudgedList) -> Band:
    """What a measure of a list could become, unjudged records off topic until they are judged.

    Where everything is judged, and for what tells of the judgments themselves, both ends are the value.

    >>> from pale_harbor.core.measures import judged_list, measure
    >>> band(measure("precision@2"), judged_list(["a", "x"], {"a": 1}))
    Band(worst=0.5, best=1.0)
    """
    value = measure.of(judged)
    if measure.depth is not None and measure.is_of_typing:
        # A relevant record more is found no later than those that are known.
        return Band(value, MOST_SAVED[measure.kind](judged, measure.depth))
    unjudged = np.flatnonzero(judged.grades[: measure.depth] == UNJUDGED)
    if not unjudged.size or measure.kind in TELLS_OF_JUDGMENTS:
        return Band(value, value)
    if measure.kind in _STEPS:
        assert measure.depth is not None
        return _gain_band(judged, measure.depth, _STEPS[measure.kind])
    if measure.kind in _BY_COUNT:
        relevant = (judged.grades >= RELEVANT_FROM).astype(np.int64)
        counted = (judged.grades == 0).astype(np.int64)
        others = judged.all_grades.size - judged.relevant_count
        ends = [
            _BY_COUNT[measure.kind](relevant, counted, order, judged.relevant_count, others)
            for order in (unjudged[::-1].copy(), unjudged)
        ]
        return Band(float(ends[0].min()), float(ends[1].max()))
    grades = judged.grades.copy()
    grades[unjudged] = HIGHEST_GRADE
    added = np.full(unjudged.size, HIGHEST_GRADE, np.int64)
    return Band(value, measure.of(JudgedList(grades, np.append(judged.all_grades, added))))


def _gain_band(judged: JudgedList, depth: int, steps: tuple[float, ...]) -> Band:
    """The band of DCG / ideal DCG.

    A gain is a sum of steps, one for each grade reached: 2^g − 1 is 1, then 2, then 4. So with a, b, c unjudged
    records of grade 3, 2 and 1 at least, both DCG and its ideal are sums of one term for each step, the ideal's
    concave. The greatest ratio is found by Dinkelbach's method (W. Dinkelbach, "On nonlinear fractional
    programming", 1967), in which each step is chosen by itself; a ≤ b ≤ c then holds of itself. The least ratio of
    something linear to something convex lies at a corner: grades 0 and 3 only.
    """
    discounts = 1 / np.log2(np.arange(2, depth + 2))
    first = judged.grades[:depth]
    unjudged = discounts[: first.size][first == UNJUDGED]
    count = unjudged.size
    ideal = np.append(0.0, np.cumsum(discounts))
    own = [float(np.sum(discounts[: first.size][first >= grade])) for grade in range(1, len(steps) + 1)]
    have = [int(np.count_nonzero(judged.all_grades >= grade)) for grade in range(1, len(steps) + 1)]
    gained = sum(step * value for step, value in zip(steps, own, strict=True))
    reached = [ideal[np.minimum(depth, known + np.arange(count + 1))] for known in have]

    def ratio(dcg: Floats, best: Floats) -> Floats:
        return np.divide(dcg, best, out=np.zeros_like(dcg), where=best > 0)

    lowest = np.append(0.0, np.cumsum(unjudged[::-1]))
    whole = sum(step * values for step, values in zip(steps, reached, strict=True))
    worst = float(ratio(gained + sum(steps) * lowest, np.asarray(whole)).min())

    topmost = np.append(0.0, np.cumsum(unjudged))
    best = 0.0
    for _ in range(100):
        chosen = [int(np.argmax(topmost - best * values)) for values in reached]
        dcg = gained + sum(step * float(topmost[m]) for step, m in zip(steps, chosen, strict=True))
        most = sum(step * float(values[m]) for step, values, m in zip(steps, reached, chosen, strict=True))
        better = dcg / most if most else 0.0
        if better <= best:
            break
        best = better
    return Band(worst, best)


@kernel
def _average_precisions(relevant: IntArray, counted: IntArray, order: IntArray, known: int, others: int) -> FloatArray:
    """AP with the first 0, 1, 2 … unjudged of `order` relevant."""
    values = np.zeros(order.size + 1)
    own = relevant.copy()
    for m in range(order.size + 1):
        if m:
            own[order[m - 1]] = 1
        found = 0
        total = 0.0
        for i in range(own.size):
            if own[i]:
                found += 1
                total += found / (i + 1)
        if known + m:
            values[m] = total / (known + m)
    return values


@kernel
def _r_precisions(relevant: IntArray, counted: IntArray, order: IntArray, known: int, others: int) -> FloatArray:
    """precision@R with the first 0, 1, 2 … unjudged of `order` relevant."""
    values = np.zeros(order.size + 1)
    own = relevant.copy()
    for m in range(order.size + 1):
        if m:
            own[order[m - 1]] = 1
        if known + m:
            values[m] = own[: known + m].sum() / (known + m)
    return values


@kernel
def _bprefs(relevant: IntArray, counted: IntArray, order: IntArray, known: int, others: int) -> FloatArray:
    """bpref with the first 0, 1, 2 … unjudged of `order` relevant and the rest of them judged off topic."""
    values = np.zeros(order.size + 1)
    own = relevant.copy()
    off = counted.copy()
    for i in order:
        off[i] = 1
    for m in range(order.size + 1):
        if m:
            own[order[m - 1]] = 1
            off[order[m - 1]] = 0
        all_relevant = known + m
        all_others = others + order.size - m
        if not all_relevant:
            continue
        above = 0
        total = 0.0
        for i in range(own.size):
            if own[i]:
                total += 1 - min(above, all_relevant) / max(1, min(all_relevant, all_others))
            elif off[i]:
                above += 1
        values[m] = total / all_relevant
    return values


_BY_COUNT: Final[dict[str, Callable[..., Floats]]] = {
    "ap": _average_precisions,
    "map": _average_precisions,
    "rprec": _r_precisions,
    "bpref": _bprefs,
}
