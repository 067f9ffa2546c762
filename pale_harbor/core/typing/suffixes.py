"""Texts and the beginnings of their words in the order of their letters, and where in it stands what begins so.

An entry is a place in letters that lie end to end, each text closed by a 0: it stands for all letters from there to the
0. Entries that begin alike stand together, so that whatever begins with the typed letters is one range of them.

Source: J. Bentley and R. Sedgewick, "Fast algorithms for sorting and searching strings", 1997, for the sort.
"""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import inlined, kernel

# Fewer entries than these are put in order one by one.
_FEW: Final = 12


@kernel
def sort_entries(letters: IntArray, entries: IntArray) -> None:
    """Puts entries in the order of their letters, and equal ones in that of their places. In place.

    letters: (letters,), each text closed by a 0; entries: (entries,), places in it.

    >>> letters, entries = np.array([2, 1, 0, 1, 0], np.uint16), np.array([0, 1, 3], np.int32)
    >>> sort_entries(letters, entries); entries.tolist()
    [1, 3, 0]
    """
    # Stretches that are still to be put in order: first, one past the last, and how many letters agree in it.
    stack = np.empty((64, 3), np.int64)
    stack[0, 0], stack[0, 1], stack[0, 2] = 0, entries.size, 0
    waiting = 1
    while waiting:
        waiting -= 1
        first, last, depth = stack[waiting, 0], stack[waiting, 1], stack[waiting, 2]
        if last - first <= _FEW:
            for i in range(first + 1, last):
                own = entries[i]
                j = i
                while j > first and _stands_before(letters, own, entries[j - 1], depth):
                    entries[j] = entries[j - 1]
                    j -= 1
                entries[j] = own
            continue
        if waiting + 3 > stack.shape[0]:
            stack = np.concatenate((stack, np.empty_like(stack)))
        pivot = letters[entries[(first + last) >> 1] + depth]
        below, above, i = first, last, first
        while i < above:
            letter = letters[entries[i] + depth]
            if letter < pivot:
                entries[i], entries[below] = entries[below], entries[i]
                below += 1
                i += 1
            elif letter > pivot:
                above -= 1
                entries[i], entries[above] = entries[above], entries[i]
            else:
                i += 1
        stack[waiting, 0], stack[waiting, 1], stack[waiting, 2] = first, below, depth
        stack[waiting + 1, 0], stack[waiting + 1, 1], stack[waiting + 1, 2] = above, last, depth
        waiting += 2
        if pivot:
            stack[waiting, 0], stack[waiting, 1], stack[waiting, 2] = below, above, depth + 1
            waiting += 1
        else:
            entries[below:above] = np.sort(entries[below:above])


@kernel
def entries_beginning(letters: IntArray, entries: IntArray, first: int, last: int, typed: IntArray) -> tuple[int, int]:
    """The first and one past the last of the entries first to last that begin with the typed letters."""
    for depth in range(typed.size):
        first, last = _narrowed(letters, entries, first, last, depth, int(typed[depth]))
    return first, last


@kernel
def entries_near(
    letters: IntArray, entries: IntArray, first: int, last: int, typed: IntArray, fixed: int
) -> NDArray[np.int64]:
    """The ranges of entries first to last of which a beginning is one edit away from the typed letters, or none.

    fixed: so many letters agree. int64 (ranges, 2), as they were found: they may lie in one another.
    """
    ranges = np.empty((16, 2), np.int64)
    found = 0
    for i in range(typed.size + 1):
        if first >= last:
            break
        if i >= fixed:
            # One letter too many was typed; or two that changed places.
            if i < typed.size:
                found, ranges = _follow(letters, entries, first, last, i, typed, i + 1, found, ranges)
            if i + 1 < typed.size:
                low, high = _narrowed(letters, entries, first, last, i, typed[i + 1])
                low, high = _narrowed(letters, entries, low, high, i + 1, typed[i])
                found, ranges = _follow(letters, entries, low, high, i + 2, typed, i + 2, found, ranges)
            # Each letter that stands here instead of the typed one, or before it.
            low = first
            while low < last and i < typed.size:
                letter = int(letters[entries[low] + i])
                _, high = _narrowed(letters, entries, low, last, i, letter)
                if letter:
                    found, ranges = _follow(letters, entries, low, high, i + 1, typed, i + 1, found, ranges)
                    found, ranges = _follow(letters, entries, low, high, i + 1, typed, i, found, ranges)
                low = high
        if i < typed.size:
            first, last = _narrowed(letters, entries, first, last, i, typed[i])
        else:
            found, ranges = _follow(letters, entries, first, last, i, typed, i, found, ranges)
    return ranges[:found]


@inlined
def _stands_before(letters: IntArray, one: int, other: int, depth: int) -> bool:
    i, j = one + depth, other + depth
    while letters[i] == letters[j] and letters[i]:
        i += 1
        j += 1
    return letters[i] < letters[j] or (letters[i] == letters[j] and one < other)


@kernel
def _narrowed(letters: IntArray, entries: IntArray, first: int, last: int, depth: int, letter: int) -> tuple[int, int]:
    """Of entries that agree in their first `depth` letters those whose next one is this."""
    low, high = first, last
    while low < high:
        middle = (low + high) >> 1
        if letters[entries[middle] + depth] < letter:
            low = middle + 1
        else:
            high = middle
    begins = low
    # Those that follow are few more often than not.
    step = 1
    high = low
    while high < last and letters[entries[high] + depth] <= letter:
        low = high + 1
        high += step
        step *= 2
    high = min(high, last)
    while low < high:
        middle = (low + high) >> 1
        if letters[entries[middle] + depth] <= letter:
            low = middle + 1
        else:
            high = middle
    return begins, low


@kernel
def _follow(
    letters: IntArray,
    entries: IntArray,
    first: int,
    last: int,
    depth: int,
    typed: IntArray,
    at: int,
    found: int,
    ranges: NDArray[np.int64],
) -> tuple[int, NDArray[np.int64]]:
    """Keeps the range of those that go on with the typed letters from `at` on, if there are any."""
    while at < typed.size and first < last:
        first, last = _narrowed(letters, entries, first, last, depth, typed[at])
        depth += 1
        at += 1
    if first < last:
        if found == ranges.shape[0]:
            ranges = np.concatenate((ranges, np.empty_like(ranges)))
        ranges[found, 0], ranges[found, 1] = first, last
        found += 1
    return found, ranges
