"""A text's vector from the vectors of its pieces: their mean."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray


def pooled_vectors(pieces: NDArray[np.floating], texts: Sequence[Sequence[int]]) -> NDArray[np.float32]:
    """The mean of each text's pieces: float32 (texts, dimensions), zeros for a text of no piece.

    pieces: (pieces, dimensions), any float; texts: numbers of the pieces of each.

    >>> pooled_vectors(np.eye(2), [[0], [0, 1], []]).tolist()
    [[1.0, 0.0], [0.5, 0.5], [0.0, 0.0]]
    """
    counts = np.array([len(text) for text in texts], np.int64)
    numbers = np.fromiter((number for text in texts for number in text), np.int64, int(counts.sum()))
    means = np.zeros((len(texts), pieces.shape[1]), np.float32)
    holding = np.flatnonzero(counts)
    if holding.size:
        starts = (np.cumsum(counts) - counts)[holding]
        sums = np.add.reduceat(pieces[numbers].astype(np.float32), starts, axis=0)
        means[holding] = sums / counts[holding, None]
    return means
