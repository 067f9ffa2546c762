"""How alike two vectors are: greater is more alike, whichever way it is told.

cosine     Σ a·b / (|a| |b|)        from −1 to 1
dot        Σ a·b
euclidean  1 / (1 + |a − b|)        from above 0 to 1
"""

from enum import Enum
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.floating[Any]]


class Similarity(Enum):
    """The way in which the vectors of a space are compared."""

    COSINE = "cosine"
    DOT = "dot"
    EUCLIDEAN = "euclidean"


def comparable(vectors: FloatArray, similarity: Similarity) -> NDArray[np.float32]:
    """Vectors ready to be compared: float32, rows end to end, of length 1 where only their direction counts.

    vectors: shape (vectors, dimensions). A vector of nothing but zeros stays as it is.
    """
    ready = np.ascontiguousarray(vectors, np.float32)
    if similarity is not Similarity.COSINE:
        return ready
    lengths = np.linalg.norm(ready, axis=1, keepdims=True)
    return np.divide(ready, lengths, out=np.zeros_like(ready), where=lengths > 0)


def similarities(
    vectors: NDArray[np.float32], wanted: NDArray[np.float32], similarity: Similarity
) -> NDArray[np.float32]:
    """How alike each vector is to the wanted one: float32 (vectors,).

    vectors: as `comparable` gives them, (vectors, dimensions); wanted: likewise, (dimensions,).
    """
    products = vectors @ wanted
    if similarity is not Similarity.EUCLIDEAN:
        return products
    squares = np.einsum("ij,ij->i", vectors, vectors)
    distances = np.sqrt(np.maximum(squares - 2 * products + wanted @ wanted, 0))
    return 1 / (1 + distances)
