"""The company that words keep: which other words stand near them.

Two words that mean the same stand among the same words. Where a stage gives two words one term
although their company is not alike, it has probably brought together what does not belong together.
How alike is alike is told by each word itself: by its company at every other place where it stands
beside its company at the places between.
"""

from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, Floats, IntArray
from pale_harbor.core.kernels import kernel

# So many words before and after count as company.
WINDOW: Final = 5
# Neighbours are counted in so many boxes: enough that different ones seldom share a box.
BOXES: Final = 1024


def company_of(words: IntArray, text_ids: IntArray, asked: IntArray, weights: NDArray[np.float64]) -> Any:
    """For each word asked for, how often which others stand near it, at every other place where it stands.

    words, text_ids: (tokens,), in order of text and position; asked: distinct words; weights: of each
    word as a neighbour, (words,). Returns float32 (asked, 2, BOXES), of length 1 or of zeros: the
    company at a word's first, third, fifth … place, and at the places between.
    """
    row_of = np.full(weights.size, -1, np.int32)
    row_of[asked] = np.arange(asked.size)
    company = np.zeros((asked.size, 2, BOXES), np.float32)
    _add_neighbours(words.astype(np.int32), text_ids.astype(np.int32), row_of, weights, WINDOW, company)
    lengths = np.linalg.norm(company, axis=2, keepdims=True)
    return np.divide(company, lengths, out=np.zeros_like(company), where=lengths > 0)


@kernel
def _add_neighbours(
    words: IntArray, text_ids: IntArray, row_of: IntArray, weights: FloatArray, window: int, company: Floats
) -> None:
    """Adds each neighbour's weight to its box, with a sign of its own, so that chance meetings cancel out."""
    boxes = np.uint64(company.shape[2])
    turn = np.zeros(company.shape[0], np.int8)
    for i in range(words.size):
        row = row_of[words[i]]
        if row < 0:
            continue
        half = turn[row]
        turn[row] = 1 - half
        for j in range(max(0, i - window), min(words.size, i + window + 1)):
            if text_ids[j] != text_ids[i] or words[j] == words[i]:
                continue
            mixed = np.uint64(words[j]) * np.uint64(0x9E3779B97F4A7C15)
            mixed ^= mixed >> np.uint64(29)
            mixed *= np.uint64(0xBF58476D1CE4E5B9)
            mixed ^= mixed >> np.uint64(32)
            sign = 1.0 if mixed & np.uint64(1) else -1.0
            company[row, half, np.int64((mixed >> np.uint64(1)) % boxes)] += np.float32(sign * weights[words[j]])
