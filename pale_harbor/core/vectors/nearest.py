"""The vectors nearest to one, found exactly: every vector is compared, at the speed of memory."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.ranking.selection import select
from pale_harbor.core.vectors.similarity import Similarity, similarities

IntArray = NDArray[np.integer[Any]]


@dataclass(frozen=True, slots=True, eq=False)
class Nearest:
    """Rows in order of similarity, the nearest first. rows: int32 (top,) at most; similarities: float64.

    passing: how many vectors were near enough and allowed, in all.
    """

    rows: IntArray
    similarities: NDArray[np.float64]
    passing: int


def nearest(
    vectors: NDArray[np.float32],
    wanted: NDArray[np.float32],
    similarity: Similarity,
    top: int,
    order_of_equals: IntArray,
    allowed: NDArray[np.bool_] | None = None,
    threshold: float | None = None,
) -> Nearest:
    """The `top` vectors nearest to `wanted`.

    vectors, wanted: as `comparable` gives them. allowed: bool (vectors,), which of them may be found, None:
    all; it is applied before anything is selected. threshold: vectors less alike than this are left out.
    order_of_equals: (vectors,), least first.
    """
    alike = similarities(vectors, wanted, similarity)
    # A vector that could not be compared is near nothing.
    passes = ~np.isnan(alike)
    if allowed is not None:
        passes &= allowed
    if threshold is not None:
        passes &= alike >= threshold
    rows = np.flatnonzero(passes).astype(np.int32)
    scores = alike[rows].astype(np.float64)
    if top < rows.size:
        # What cannot be among the best any more is not even put into the heap.
        least = np.partition(scores, rows.size - top)[rows.size - top]
        candidates = scores >= least
        found, found_scores = rows[candidates], scores[candidates]
    else:
        found, found_scores = rows, scores
    best, best_scores = select(found, found_scores, order_of_equals, min(top, found.size))
    return Nearest(best, best_scores, rows.size)
