"""Which words of a collection begin as what was typed does, in all its slabs: those in the most records."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.near_beginnings import near_beginnings
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.kernels import kernel
from pale_harbor.core.ranking.prepared import Alive


def numbers_beginning(index: ReadingIndex, typed: str, edits: int) -> IntArray:
    """The numbers of the terms of which the nearest beginning is so many edits from what was typed: (terms,)."""
    if edits == 0:
        own = index.vocabulary.numbers_beginning(typed)
        return np.arange(own.start, own.stop, dtype=np.int32)
    numbers, distances = near_beginnings(index.vocabulary, typed, edits)
    return numbers[distances == edits]


def held_in(index: ReadingIndex, alive: Alive | None, numbers: IntArray) -> IntArray:
    """In how many living records each of these terms stands: int64 (terms,)."""
    if alive is None:
        firsts = index.posting_firsts
        return np.asarray(firsts[numbers + 1] - firsts[numbers], np.int64)
    return _living(index.record_ids, index.posting_firsts, alive, numbers)


def most_held(
    indexes: Sequence[ReadingIndex], alive: Sequence[Alive | None], numbers: Sequence[IntArray], most: int
) -> list[IntArray]:
    """Of some terms those that stand in the most living records, so many, of equals the first by their letters.

    indexes, alive, numbers: by slab. The choice is the same however the records are spread over slabs.
    """
    held = [held_in(*own) for own in zip(indexes, alive, numbers, strict=True)]
    numbers = [own[counts > 0] for own, counts in zip(numbers, held, strict=True)]
    held = [counts[counts > 0] for counts in held]
    if sum(own.size for own in numbers) <= most:
        return list(numbers)
    # Numbers are in the order of letters.
    orders = [np.lexsort((own, -counts)) for own, counts in zip(numbers, held, strict=True)]
    if len(numbers) == 1:
        return [np.sort(numbers[0][orders[0][:most]])]
    return _most_of_slabs(indexes, numbers, held, orders, most)


def _most_of_slabs(
    indexes: Sequence[ReadingIndex],
    numbers: Sequence[IntArray],
    held: Sequence[IntArray],
    orders: Sequence[NDArray[Any]],
    most: int,
) -> list[IntArray]:
    """The threshold algorithm: each slab's first ones, until nobody further down can come among the chosen.

    Source: R. Fagin, A. Lotem and M. Naor, "Optimal aggregation algorithms for middleware", 2001.
    """
    slabs = range(len(numbers))
    depth = most
    while True:
        seen = {
            indexes[slab].vocabulary.term(number)
            for slab in slabs
            for number in numbers[slab][orders[slab][:depth]].tolist()
        }
        totals = dict.fromkeys(seen, 0)
        for slab in slabs:
            for text in seen:
                number = indexes[slab].vocabulary.find(text)
                at = -1 if number is None else int(np.searchsorted(numbers[slab], number))
                if 0 <= at < numbers[slab].size and numbers[slab][at] == number:
                    totals[text] += int(held[slab][at])
        chosen = sorted(seen, key=lambda text: (-totals[text], text))[:most]
        # What was not seen yet stands in so many records at most.
        left = sum(int(held[slab][orders[slab][depth]]) for slab in slabs if orders[slab].size > depth)
        if left == 0 or (len(chosen) == most and totals[chosen[-1]] > left):
            found = [[index.vocabulary.find(text) for text in chosen] for index in indexes]
            return [np.array(sorted(one for one in own if one is not None), np.int32) for own in found]
        depth *= 2


@kernel
def _living(record_ids: IntArray, firsts: IntArray, alive: NDArray[np.bool_], numbers: IntArray) -> IntArray:
    counts = np.zeros(numbers.size, np.int64)
    for i in range(numbers.size):
        for at in range(firsts[numbers[i]], firsts[numbers[i] + 1]):
            counts[i] += alive[record_ids[at]]
    return counts
