"""The best of many records, best first, without sorting them all."""

# pyright: reportMissingParameterType=false, reportUnknownParameterType=false
# (numba finds the types of kernels itself)

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def select(all_ids, all_scores, order, top):
    """The best `top` of the records, best first: a heap with the worst of them at its root."""
    ids = np.empty(top, np.int32)
    scores = np.empty(top, np.float64)
    if top == 0:
        return ids, scores
    size = 0
    for i in range(all_ids.size):
        record = all_ids[i]
        score = all_scores[i]
        if size < top:
            at = size
            size += 1
            while at > 0:
                above = (at - 1) >> 1
                if not _worse(score, order[record], scores[above], order[ids[above]]):
                    break
                ids[at], scores[at] = ids[above], scores[above]
                at = above
            ids[at], scores[at] = record, score
        elif score > scores[0] or (score == scores[0] and order[record] < order[ids[0]]):
            _sink(ids, scores, order, size, record, score)
    # Taking the worst off the heap, again and again, leaves the best in front.
    for end in range(size - 1, 0, -1):
        record, score = ids[end], scores[end]
        ids[end], scores[end] = ids[0], scores[0]
        _sink(ids, scores, order, end, record, score)
    return ids, scores


@njit(cache=True, nogil=True, inline="always")
def _worse(score_a, order_a, score_b, order_b):
    return score_a < score_b or (score_a == score_b and order_a > order_b)


@njit(cache=True, nogil=True, inline="always")
def _sink(ids, scores, order, size, record, score):
    """Puts a record in place of the root of a heap of `size` and lets it sink to where it belongs."""
    at = 0
    while True:
        below = 2 * at + 1
        if below >= size:
            break
        if below + 1 < size and _worse(scores[below + 1], order[ids[below + 1]], scores[below], order[ids[below]]):
            below += 1
        if not _worse(scores[below], order[ids[below]], score, order[record]):
            break
        ids[at], scores[at] = ids[below], scores[below]
        at = below
    ids[at], scores[at] = record, score
