"""The second stage: the first records of a list put in a new order by how alike they are word by word.

    score = (1 − weight) · place + weight · similarity
    place = 1 for the first, falling evenly to 1/n for the last of the n that are looked at

Only the order counts: those behind the first n stay where they are.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.blend.fusion import Normalisation, comparable_scores


@dataclass(frozen=True, slots=True, eq=False)
class Restaged:
    """order: int64 (n,), which of the first n comes where; places, scores: float64 (n,), in the old order."""

    order: NDArray[np.int64]
    places: NDArray[np.float64]
    scores: NDArray[np.float64]


def second_stage_order(similarities: Sequence[float], weight: float) -> Restaged:
    """similarities: of the first n records, in their order. Equal scores keep that order.

    >>> second_stage_order([0.2, 0.9], 1.0).order.tolist()
    [1, 0]
    """
    places = comparable_scores(np.zeros(len(similarities)), Normalisation.RANK)
    scores = (1 - weight) * places + weight * np.array(similarities, np.float64)
    return Restaged(np.argsort(-scores, kind="stable"), places, scores)
