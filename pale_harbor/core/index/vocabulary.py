"""A sorted term dictionary that lives in two arrays, so that it can be mapped from a file.

Terms are kept as UTF-8, whose byte order is the order of code points.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import inlined, kernel


@dataclass(frozen=True, eq=False)
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

    def numbers_beginning(self, beginning: str) -> range:
        """The numbers of all terms that begin so."""
        wanted = np.frombuffer(beginning.encode("utf-8", "surrogatepass"), np.uint8)
        first, last = _beginning_with(self.letters, self.firsts, wanted)
        return range(int(first), int(last))

    def numbers_ending(self, ending: str) -> NDArray[np.int32]:
        """The numbers of all terms that end so, ascending. Looks at the end of every term. Shape (terms,)."""
        wanted = np.frombuffer(ending.encode("utf-8", "surrogatepass"), np.uint8)
        return _ending_in(self.letters, self.firsts, wanted)

    @cached_property
    def codes(self) -> tuple[NDArray[np.uint32], NDArray[np.int64]]:
        """All terms as code points end to end, and where each begins: uint32 (letters,), int64 (terms + 1,)."""
        letters = np.asarray(self.letters)
        # A byte that does not continue a code point begins one.
        begun = np.append(0, np.cumsum((letters & 0xC0) != 0x80))
        text = letters.tobytes().decode("utf-8", "surrogatepass")
        codes = np.frombuffer(text.encode("utf-32-le", "surrogatepass"), np.uint32)
        return codes, begun[self.firsts].astype(np.int64)

    def _bytes(self, number: int) -> bytes:
        return self.letters[self.firsts[number] : self.firsts[number + 1]].tobytes()


def vocabulary_of(sorted_terms: Sequence[str]) -> Vocabulary:
    """A vocabulary of distinct terms that are already in code point order."""
    encoded = [term.encode("utf-8", "surrogatepass") for term in sorted_terms]
    firsts = np.cumsum([0, *map(len, encoded)], dtype=np.int64)
    # Arrays mapped from files cannot be written to either: kernels are compiled once for both.
    firsts.setflags(write=False)
    return Vocabulary(np.frombuffer(b"".join(encoded), np.uint8), firsts)


@inlined
def _compare(letters: IntArray, start: int, stop: int, wanted: IntArray) -> int:
    """Where a term stands to what is wanted: −1 before, 0 where it begins so, 1 after."""
    shared = min(stop - start, wanted.size)
    i = 0
    while i < shared and letters[start + i] == wanted[i]:
        i += 1
    if i < shared:
        return -1 if letters[start + i] < wanted[i] else 1
    return -1 if shared < wanted.size else 0


@kernel
def _beginning_with(letters: IntArray, firsts: IntArray, wanted: IntArray) -> tuple[int, int]:
    """The first and one past the last number of the terms that begin with these bytes."""
    bounds = np.empty(2, np.int64)
    for side in range(2):
        low, high = 0, firsts.size - 1
        while low < high:
            middle = (low + high) >> 1
            if _compare(letters, firsts[middle], firsts[middle + 1], wanted) < side:
                low = middle + 1
            else:
                high = middle
        bounds[side] = low
    return bounds[0], bounds[1]


@kernel
def _ending_in(letters: IntArray, firsts: IntArray, wanted: IntArray) -> NDArray[np.int32]:
    found = np.empty(firsts.size - 1, np.int32)
    count = 0
    for term in range(firsts.size - 1):
        stop = firsts[term + 1]
        i = 1
        while i <= wanted.size and stop - i >= firsts[term] and letters[stop - i] == wanted[wanted.size - i]:
            i += 1
        if i > wanted.size:
            found[count] = term
            count += 1
    return found[:count]


@kernel
def _find(letters: IntArray, firsts: IntArray, wanted: IntArray) -> int:
    """The number of the term with these bytes, -1 where there is none: a binary search."""
    low, high = 0, firsts.size - 1
    while low < high:
        middle = (low + high) >> 1
        if _compare(letters, firsts[middle], firsts[middle + 1], wanted) < 0:
            low = middle + 1
        else:
            high = middle
    # The first term that begins so is the wanted one, if any is.
    found = low < firsts.size - 1 and firsts[low + 1] - firsts[low] == wanted.size
    return low if found and _compare(letters, firsts[low], firsts[low + 1], wanted) == 0 else -1
