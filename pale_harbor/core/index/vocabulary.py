"""A sorted term dictionary that lives in two arrays, so that it can be mapped from a file.

Terms are kept as UTF-8, whose byte order is the order of code points.
"""

# pyright: reportMissingParameterType=false, reportUnknownParameterType=false
# (numba finds the types of kernels itself)

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True, eq=False)
class Vocabulary:
    """Distinct terms in code point order; a term's number is its place.

    letters: uint8 (bytes,), all terms end to end; firsts: int64 (terms + 1,), where each begins.
    """

    letters: NDArray[np.uint8]
    firsts: NDArray[np.integer[Any]]

    def __len__(self) -> int:
        return self.firsts.size - 1

    def __iter__(self) -> Iterator[str]:
        return (self.term(number) for number in range(len(self)))

    def term(self, number: int) -> str:
        """The term with this number."""
        return self._bytes(number).decode("utf-8", "surrogatepass")

    def find(self, term: str) -> int | None:
        """The number of a term, None where it is not here."""
        number = int(_find(self.letters, self.firsts, np.frombuffer(term.encode("utf-8", "surrogatepass"), np.uint8)))
        return number if number >= 0 else None

    def _bytes(self, number: int) -> bytes:
        return self.letters[self.firsts[number] : self.firsts[number + 1]].tobytes()


def vocabulary_of(sorted_terms: Sequence[str]) -> Vocabulary:
    """A vocabulary of distinct terms that are already in code point order."""
    encoded = [term.encode("utf-8", "surrogatepass") for term in sorted_terms]
    firsts = np.cumsum([0, *map(len, encoded)], dtype=np.int64)
    # Arrays mapped from files cannot be written to either: kernels are compiled once for both.
    firsts.setflags(write=False)
    return Vocabulary(np.frombuffer(b"".join(encoded), np.uint8), firsts)


@njit(cache=True, nogil=True)
def _find(letters, firsts, wanted):
    """The number of the term with these bytes, -1 where there is none: a binary search."""
    low, high = 0, firsts.size - 1
    while low < high:
        middle = (low + high) >> 1
        start, stop = firsts[middle], firsts[middle + 1]
        shared = min(stop - start, wanted.size)
        i = 0
        while i < shared and letters[start + i] == wanted[i]:
            i += 1
        if i < shared:
            comes_before = letters[start + i] < wanted[i]
        elif stop - start == wanted.size:
            return middle
        else:
            comes_before = stop - start < wanted.size
        if comes_before:
            low = middle + 1
        else:
            high = middle
    return -1
