"""Terms of a vocabulary that begin within a few edits of what was typed, found without looking at all of them.

A term is as far away as the nearest of its beginnings: *harpoon* begins with *harp*, one pair of neighbours away from
*hapr*. The vocabulary is walked as the tree of its beginnings, as in `near_terms`.

Source: S. Ji, G. Li, C. Li and J. Feng, "Efficient interactive fuzzy keyword search", 2009, for the distance of a
beginning.
"""

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.near_terms import LONGEST_WORD, fill_row, past
from pale_harbor.core.index.vocabulary import Vocabulary
from pale_harbor.core.kernels import kernel


def near_beginnings(
    vocabulary: Vocabulary, typed: str, edits: int, fixed_start: int = 1
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The numbers of the terms of which a beginning is within so many edits, ascending, and how many edits the nearest
    is away.

    fixed_start: letters at the beginning that must agree.

    Both (terms,).

    >>> from pale_harbor.core.index.vocabulary import vocabulary_of
    >>> numbers, distances = near_beginnings(vocabulary_of(["half", "harp", "harpoon", "heap"]), "hapr", 1)
    >>> numbers.tolist(), distances.tolist()
    ([1, 2], [1, 1])
    """
    if len(typed) > LONGEST_WORD:
        nothing = np.zeros(0, np.int32)
        return nothing, nothing
    codes, firsts = vocabulary.codes
    numbers = vocabulary.numbers_beginning(typed[:fixed_start])
    wanted = np.frombuffer(typed.encode("utf-32-le", "surrogatepass"), np.uint32)
    return _walk(codes, firsts, numbers.start, numbers.stop, wanted, edits)


@kernel
def _walk(
    codes: IntArray, firsts: IntArray, first_term: int, last_term: int, wanted: IntArray, edits: int
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Terms first_term to last_term of which a beginning is within `edits` of `wanted`.

    nearest[d]: how far the nearest of the first d beginnings of the term at hand is.
    """
    size = wanted.size
    far = edits + 1
    deepest = size + edits + 1
    rows = np.full((deepest + 1, size + 1), far, np.int32)
    for j in range(min(size, edits) + 1):
        rows[0, j] = j
    nearest = np.full(deepest + 1, far, np.int32)
    nearest[0] = rows[0, size]
    found = np.empty(64, np.int32)
    distances = np.empty(64, np.int32)
    count = 0
    term = first_term
    known = 0
    above = first_term
    while term < last_term:
        start, length = firsts[term], firsts[term + 1] - firsts[term]
        depth = 0
        if term > first_term:
            other = firsts[above]
            most = min(known, length)
            while depth < most and codes[start + depth] == codes[other + depth]:
                depth += 1
        above = term
        lost = False
        while depth < length and not lost:
            depth += 1
            least = fill_row(codes, start, depth, wanted, edits, rows)
            nearest[depth] = min(nearest[depth - 1], rows[depth, size])
            # Nothing longer can be nearer than the nearest so far: what begins alike is as far away.
            lost = least >= nearest[depth]
        known = depth
        last = term + 1
        if lost:
            last = past(codes, firsts, term, last_term, depth)
        if nearest[depth] <= edits:
            while count + last - term > found.size:
                found = np.append(found, np.empty(found.size, np.int32))
                distances = np.append(distances, np.empty(distances.size, np.int32))
            for one in range(term, last):
                found[count] = one
                distances[count] = nearest[depth]
                count += 1
        term = last
    return found[:count], distances[:count]
