"""Terms of a vocabulary that are a few edits from a word, found without looking at all of them.

A sorted vocabulary is walked as the tree of its beginnings: terms that begin alike share the rows of the
distance table, and as soon as a beginning is too far from every beginning of the word, all terms that
share it are leapt over.

The distance counts letters left out, put in, exchanged, and neighbours that changed places (optimal
string alignment: no stretch is edited twice).

Sources: F. Damerau, "A technique for computer detection and correction of spelling errors", 1964;
H. Shang and T. Merrettal, "Tries for approximate string matching", 1996.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.vocabulary import Vocabulary
from pale_harbor.core.kernels import inlined, kernel

# Longer words have no slack: nobody mistypes them into another word.
LONGEST_WORD: Final = 60


def near_terms(
    vocabulary: Vocabulary, word: str, edits: int, fixed_start: int = 0
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The numbers of the terms within so many edits, ascending, and how many edits each is away.

    fixed_start: letters at the beginning that must agree. The word itself is among them, 0 edits away.

    Both (terms,).

    >>> from pale_harbor.core.index.vocabulary import vocabulary_of
    >>> numbers, distances = near_terms(vocabulary_of(["boat", "boats", "goat", "oar"]), "baot", 1)
    >>> numbers.tolist(), distances.tolist()
    ([0], [1])
    """
    if len(word) > LONGEST_WORD:
        nothing = np.zeros(0, np.int32)
        return nothing, nothing
    codes, firsts = vocabulary.codes
    fixed = word[:fixed_start]
    # A word shorter than the start that must agree is compared as a whole.
    numbers = vocabulary.numbers_beginning(fixed)
    wanted = np.frombuffer(word.encode("utf-32-le", "surrogatepass"), np.uint32)
    return _walk(codes, firsts, numbers.start, numbers.stop, wanted, edits)


def edit_distance(a: str, b: str) -> int:
    """Edits between two words: letters left out, put in, exchanged, neighbours that changed places.

    >>> edit_distance("harpon", "harpoon"), edit_distance("baot", "boat")
    (1, 1)
    """
    rows = [list(range(len(b) + 1))]
    for i, letter in enumerate(a, start=1):
        above, row = rows[-1], [i]
        for j, other in enumerate(b, start=1):
            nearest = min(above[j] + 1, row[j - 1] + 1, above[j - 1] + (letter != other))
            if i > 1 and j > 1 and letter == b[j - 2] and a[i - 2] == other:
                nearest = min(nearest, rows[-2][j - 2] + 1)
            row.append(nearest)
        rows.append(row)
    return rows[-1][-1]


@kernel
def _walk(
    codes: IntArray, firsts: IntArray, first_term: int, last_term: int, wanted: IntArray, edits: int
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Terms first_term to last_term within `edits` of `wanted`.

    rows[d]: distances between the first d letters of the term at hand and every beginning of the word;
    only |d − j| ≤ edits is kept up, everything else is too far anyway.
    """
    size = wanted.size
    far = edits + 1
    deepest = size + edits + 1
    rows = np.full((deepest + 1, size + 1), far, np.int32)
    for j in range(min(size, edits) + 1):
        rows[0, j] = j
    found = np.empty(64, np.int32)
    distances = np.empty(64, np.int32)
    count = 0
    term = first_term
    # rows[0 … known] are those of the term at `above`.
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
        while depth < length:
            depth += 1
            least = fill_row(codes, start, depth, wanted, edits, rows)
            # Neighbours that changed places reach back over one row; but if a step more from there were near enough,
            # this row would hold it too.
            if least >= far:
                lost = True
                break
        known = depth
        if lost:
            term = past(codes, firsts, term, last_term, depth)
            continue
        if abs(length - size) <= edits and rows[length, size] <= edits:
            if count == found.size:
                found = np.append(found, np.empty(count, np.int32))
                distances = np.append(distances, np.empty(count, np.int32))
            found[count] = term
            distances[count] = rows[length, size]
            count += 1
        term += 1
    return found[:count], distances[:count]


@inlined
def fill_row(codes: IntArray, start: int, depth: int, wanted: IntArray, edits: int, rows: IntArray) -> int:
    """The row of a term's first `depth` letters, from the rows above; returns its least distance."""
    far = edits + 1
    size = wanted.size
    letter = codes[start + depth - 1]
    least = far
    low, high = max(0, depth - edits), min(size, depth + edits)
    if low > 0:
        rows[depth, low - 1] = far
    for j in range(low, high + 1):
        if j == 0:
            value = depth
        else:
            value = rows[depth - 1, j - 1] + (0 if letter == wanted[j - 1] else 1)
            if j < depth + edits:
                value = min(value, rows[depth - 1, j] + 1)
            if j > low:
                value = min(value, rows[depth, j - 1] + 1)
            if depth > 1 and j > 1 and letter == wanted[j - 2] and codes[start + depth - 2] == wanted[j - 1]:
                value = min(value, rows[depth - 2, j - 2] + 1)
        value = min(value, far)
        rows[depth, j] = value
        least = min(least, value)
    if high < size:
        rows[depth, high + 1] = far
    return least


@kernel
def past(codes: IntArray, firsts: IntArray, term: int, last_term: int, depth: int) -> int:
    """The first term after `term` that does not begin with its first `depth` letters."""
    start = firsts[term]
    step = 1
    low = term
    high = term + 1
    # Leaps double: what is near is found quickly, what is far too.
    while high < last_term and _begins_alike(codes, firsts, high, start, depth):
        low = high
        step *= 2
        high = min(last_term, high + step)
    low += 1
    while low < high:
        middle = (low + high) >> 1
        if _begins_alike(codes, firsts, middle, start, depth):
            low = middle + 1
        else:
            high = middle
    return high


@inlined
def _begins_alike(codes: IntArray, firsts: IntArray, term: int, start: int, depth: int) -> bool:
    own = firsts[term]
    if firsts[term + 1] - own < depth:
        return False
    i = 0
    while i < depth and codes[own + i] == codes[start + i]:
        i += 1
    return i == depth
