"""How a vocabulary grows with the text: V = k · n^β of n tokens.

Source: H. S. Heaps, "Information Retrieval: Computational and Theoretical Aspects", 1978, section 7.5.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import Mask
from pale_harbor.core.index import ReadingIndex

# It is fitted from an eighth of the text on: how it began says little of how it goes on.
_FITTED_FROM: Final = 1 / 8
_POINTS: Final = 24
_LEAST_POINTS: Final = 3


@dataclass(frozen=True, slots=True)
class HeapsLaw:
    """k and β of V = k · n^β.

    >>> round(HeapsLaw(k=10.0, beta=0.5).at(10_000))
    1000
    """

    k: float
    beta: float

    def at(self, tokens: float) -> float:
        """What there is of so many tokens."""
        return self.k * tokens**self.beta


@dataclass(frozen=True, slots=True, eq=False)
class Growth:
    """What there is of the first so many tokens, as records come one after another. tokens, terms, letters: float64
    (points,), the letters in bytes of UTF-8."""

    tokens: NDArray[np.float64]
    terms: NDArray[np.float64]
    letters: NDArray[np.float64]


def growth_of(index: ReadingIndex, alive: Mask | None = None, seed: int = 0) -> Growth:
    """How the vocabulary of an index grew, had its records come in a random order.

    alive: which of them count, bool (records,); None: all.
    """
    records = np.arange(index.record_count) if alive is None else np.flatnonzero(alive)
    order = np.random.default_rng(seed).permutation(records)
    ranks = np.full(index.record_count, order.size, np.int64)
    ranks[order] = np.arange(order.size)
    # The first record that holds each term: where it is new.
    firsts = index.posting_firsts[:-1]
    held = np.diff(index.posting_firsts) > 0
    first = np.full(held.size, order.size, np.int64)
    if held.any():
        first[held] = np.minimum.reduceat(ranks[index.record_ids], firsts[held])
    sizes = np.diff(index.vocabulary.firsts).astype(np.float64)
    by_record = np.bincount(first, minlength=order.size + 1)[: order.size]
    letters = np.bincount(first, weights=sizes, minlength=order.size + 1)[: order.size]
    tokens = np.cumsum(index.lengths[order], dtype=np.float64)
    places = np.unique(np.geomspace(max(1.0, order.size * _FITTED_FROM), max(1, order.size), _POINTS).astype(int)) - 1
    if not order.size:
        places = places[:0]
    return Growth(
        tokens[places], np.cumsum(by_record, dtype=np.float64)[places], np.cumsum(letters, dtype=np.float64)[places]
    )


def heaps_law(tokens: NDArray[np.float64], found: NDArray[np.float64]) -> HeapsLaw:
    """The law that fits what was found of so many tokens (least squares of logarithms), and gives the last point.

    Where there are too few points to tell, or nothing is found: that it grows as the tokens do, which is the most.
    """
    known = (tokens > 0) & (found > 0)
    if int(np.count_nonzero(known)) < _LEAST_POINTS or np.unique(tokens[known]).size < _LEAST_POINTS:
        last = float(found[-1] / tokens[-1]) if known.size and known[-1] else 0.0
        return HeapsLaw(last, 1.0)
    beta = float(np.polyfit(np.log(tokens[known]), np.log(found[known]), 1)[0])
    # A vocabulary neither shrinks nor outgrows its text.
    beta = min(1.0, max(0.0, beta))
    return HeapsLaw(float(found[known][-1] / tokens[known][-1] ** beta), beta)
