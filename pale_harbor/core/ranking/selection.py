"""The best of many records, best first, without sorting them all."""

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.kernels import inlined, kernel


@kernel
def select(all_ids: IntArray, all_scores: FloatArray, order: IntArray, top: int) -> tuple[IntArray, FloatArray]:
    """The best `top` of the records, best first: a heap with the worst of them at its root.

    all_ids, all_scores: (matched,); order: (records,), each record's place among equals; results (top,) or fewer.
    """
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
                if not _worse(score, order[int(record)], scores[above], order[int(ids[above])]):
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


@inlined
def _worse(score_a: float, order_a: int, score_b: float, order_b: int) -> bool:
    return score_a < score_b or (score_a == score_b and order_a > order_b)


@inlined
def _sink(ids: IntArray, scores: FloatArray, order: IntArray, size: int, record: int, score: float) -> None:
    """Puts a record in place of the root of a heap of `size` and lets it sink to where it belongs."""
    at = 0
    while True:
        below = 2 * at + 1
        if below >= size:
            break
        if below + 1 < size and _worse(
            scores[below + 1], order[int(ids[below + 1])], scores[below], order[int(ids[below])]
        ):
            below += 1
        if not _worse(scores[below], order[int(ids[below])], score, order[record]):
            break
        ids[at], scores[at] = ids[below], scores[below]
        at = below
    ids[at], scores[at] = record, score
