"""The measures, each a formula over one judged list; 0 where a query has no relevant record.

In the formulas: rel(i) is 1 where the record at rank i is graded 1 or more, g(i) its grade (0 for
unjudged), R the judged relevant records, N the judged others, L the length of the list.
"""

from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.measures.judged_list import HIGHEST_GRADE, UNJUDGED, JudgedList

PERSISTENCE: Final = 0.8
# log2(i + 1) for the ranks that are asked for again and again.
_LOGARITHMS: Final = np.log2(np.arange(2, 1_026))


def precision(judged: JudgedList, depth: int) -> float:
    """Σ_{i≤k} rel(i) / k, also for a list shorter than k."""
    return float(np.count_nonzero(judged.relevant[:depth])) / depth


def recall(judged: JudgedList, depth: int) -> float:
    """Σ_{i≤k} rel(i) / R."""
    count = judged.relevant_count
    return float(np.count_nonzero(judged.relevant[:depth])) / count if count else 0.0


def success(judged: JudgedList, depth: int) -> float:
    """1 where one of the first k is relevant, else 0."""
    return float(judged.relevant[:depth].any())


def reciprocal_rank(judged: JudgedList, depth: int | None = None) -> float:
    """1 / rank of the first relevant record (within k), else 0."""
    ranks = np.flatnonzero(judged.relevant[:depth])
    return 1.0 / (int(ranks[0]) + 1) if ranks.size else 0.0


def average_precision(judged: JudgedList) -> float:
    """(1/R) Σ_i rel(i) · precision@i."""
    if not judged.relevant_count:
        return 0.0
    ranks = np.flatnonzero(judged.relevant) + 1
    return float(np.sum(np.arange(1, ranks.size + 1) / ranks)) / judged.relevant_count


def ndcg(judged: JudgedList, depth: int) -> float:
    """DCG / ideal DCG with gain 2^g − 1 and discount log2(i + 1).

    Source: K. Järvelin and J. Kekäläinen, "Cumulated gain-based evaluation of IR techniques", 2002;
    the exponential gain: C. Burges et al., "Learning to Rank using Gradient Descent", 2005.
    """
    return _normalised_gain(np.exp2(judged.gains) - 1, np.exp2(judged.all_grades) - 1, depth)


def ndcg_linear(judged: JudgedList, depth: int) -> float:
    """DCG / ideal DCG with gain g."""
    return _normalised_gain(judged.gains.astype(float), judged.all_grades.astype(float), depth)


def _normalised_gain(gains: NDArray[np.floating[Any]], all_gains: NDArray[np.floating[Any]], depth: int) -> float:
    ideal = _discounted_gain(np.sort(all_gains)[::-1][:depth])
    return _discounted_gain(gains[:depth]) / ideal if ideal else 0.0


def _discounted_gain(gains: NDArray[np.floating[Any]]) -> float:
    count = gains.size
    logarithms = _LOGARITHMS[:count] if count <= _LOGARITHMS.size else np.log2(np.arange(2, count + 2))
    return float((gains / logarithms).sum())


def expected_reciprocal_rank(judged: JudgedList, depth: int) -> float:
    """Σ_{i≤k} (1/i) · s(i) · Π_{j<i} (1 − s(j)), s = (2^g − 1) / 2^3; a grade above 3 counts as 3.

    Source: O. Chapelle et al., "Expected Reciprocal Rank for Graded Relevance", 2009.
    """
    satisfied = (2.0 ** np.minimum(judged.gains[:depth], HIGHEST_GRADE) - 1) / 2.0**HIGHEST_GRADE
    reached = np.cumprod(np.append(1.0, 1 - satisfied[:-1]))[: satisfied.size]
    return float(np.sum(satisfied * reached / np.arange(1, satisfied.size + 1)))


def rank_biased_precision(judged: JudgedList) -> float:
    """(1 − p) Σ_i rel(i) · p^(i−1), p = 0.8, over the whole list.

    Source: A. Moffat and J. Zobel, "Rank-Biased Precision for Measurement of Retrieval
    Effectiveness", 2008.
    """
    return (1 - PERSISTENCE) * float(np.sum(PERSISTENCE ** np.flatnonzero(judged.relevant)))


def rank_biased_residual(judged: JudgedList) -> float:
    """How much rbp could still gain: (1 − p) Σ_{i unjudged} p^(i−1) + p^L."""
    unjudged = np.flatnonzero(judged.grades == UNJUDGED)
    return (1 - PERSISTENCE) * float(np.sum(PERSISTENCE**unjudged)) + PERSISTENCE**judged.grades.size


def bpref(judged: JudgedList) -> float:
    """(1/R) Σ_{relevant in the list} (1 − min(n, R) / min(R, N)), n: judged others above it.

    The term is 1 where n = 0. Source: C. Buckley and E. Voorhees, "Retrieval Evaluation with
    Incomplete Information", 2004.
    """
    count = judged.relevant_count
    if not count:
        return 0.0
    others = judged.all_grades.size - count
    above = np.cumsum(judged.grades == 0)[judged.relevant]
    shares = np.minimum(above, count) / max(1, min(count, others))
    return float(np.sum(1 - shares)) / count


def r_precision(judged: JudgedList) -> float:
    """precision@R."""
    return precision(judged, judged.relevant_count) if judged.relevant_count else 0.0


def judged_share(judged: JudgedList, depth: int) -> float:
    """Judged records among the first k / min(k, L); 0 for an empty list."""
    first = judged.grades[:depth]
    return float(np.count_nonzero(first != UNJUDGED)) / first.size if first.size else 0.0
