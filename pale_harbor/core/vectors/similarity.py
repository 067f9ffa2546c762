"""How alike two vectors are: greater is more alike, whichever way it is told.

cosine     Σ a·b / (|a| |b|)        from −1 to 1
dot        Σ a·b
euclidean  1 / (1 + |a − b|)        from above 0 to 1
"""

from enum import Enum
from typing import Final

from pale_harbor.core.arrays import FloatArray, Floats, IntArray
from pale_harbor.core.kernels import kernel


class Similarity(Enum):
    """The way in which the vectors of a space are compared."""

    COSINE = "cosine"
    DOT = "dot"
    EUCLIDEAN = "euclidean"


# What a kernel is told the way by.
KERNEL_CODES: Final = {Similarity.COSINE: 0, Similarity.DOT: 1, Similarity.EUCLIDEAN: 2}


@kernel
def exact_similarities(
    vectors: Floats,
    lengths: FloatArray,
    rows: IntArray,
    wanted: FloatArray,
    wanted_length: float,
    code: int,
    found: FloatArray,
) -> None:
    """How alike each of these rows is, in float64 and term by term, so that no row's neighbours matter.

    vectors: float32 (vectors, dimensions); lengths: float64 (vectors,); rows: int64 (rows,); wanted: float64
    (dimensions,); found: float64 (rows,), filled.
    """
    for i in range(rows.size):
        row = rows[i]
        total = 0.0
        for j in range(wanted.size):
            if code == 2:
                apart = vectors[row, j] - wanted[j]
                total += apart * apart
            else:
                total += vectors[row, j] * wanted[j]
        if code == 0:
            total /= lengths[row] * wanted_length
        elif code == 2:
            total = 1.0 / (1.0 + total**0.5)
        found[i] = total
