"""Like these and unlike those: one vector from examples.

    wanted = mean of the liked − share · mean of the disliked,  each of length 1

Source: J. Rocchio, "Relevance feedback in information retrieval", 1971.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

AWAY: Final = 0.5


def wanted_by_examples(
    liked: NDArray[np.float32], disliked: NDArray[np.float32], away: float = AWAY
) -> NDArray[np.float32]:
    """float32 (dimensions,). liked, disliked: (examples, dimensions), none of them zero; away: that share."""
    wanted = _mean(liked) - (away * _mean(disliked) if disliked.shape[0] else 0.0)
    return wanted.astype(np.float32)


def _mean(examples: NDArray[np.float32]) -> NDArray[np.float64]:
    own = examples.astype(np.float64)
    return (own / np.linalg.norm(own, axis=1, keepdims=True)).mean(axis=0)
