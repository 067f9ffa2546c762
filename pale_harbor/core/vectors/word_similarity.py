"""How alike two texts are word by word: each word of the query by its best match in the record.

    similarity = 1/words · Σ_q max_d cosine(q, d)

Source: the sum of best matches is that of O. Khattab and M. Zaharia, "ColBERT: Efficient and effective passage
search via contextualized late interaction over BERT", 2020; here over vectors that know no context.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray


@dataclass(frozen=True, slots=True, eq=False)
class WordSimilarity:
    """value: from −1 to 1. best: float64 (words of the query,), each one's best match; which: that word of the record.

    With no words on either side the value is 0, and nothing matches.
    """

    value: float
    best: FloatArray
    which: IntArray


def word_similarity(query_words: NDArray[np.float32], record_words: NDArray[np.float32]) -> WordSimilarity:
    """query_words: (words, dimensions); record_words: (words, dimensions). A zero vector matches nothing: 0."""
    if not query_words.shape[0] or not record_words.shape[0]:
        words = query_words.shape[0]
        return WordSimilarity(0.0, np.zeros(words), np.full(words, -1))
    cosines = _directions(query_words) @ _directions(record_words).T
    which = cosines.argmax(axis=1)
    best = cosines[np.arange(which.size), which]
    return WordSimilarity(float(best.mean()), best, which)


def _directions(vectors: NDArray[np.float32]) -> FloatArray:
    own = vectors.astype(np.float64)
    lengths = np.linalg.norm(own, axis=1, keepdims=True)
    return own / np.where(lengths > 0, lengths, 1.0)
