"""The least numbers of any range of an array, least first, without looking through it.

The least of each block of 32 is kept, and of runs of 1, 2, 4 … blocks: two runs cover whatever blocks a range has, and
what is left at its ends is looked at.

Source: M. Bender and M. Farach-Colton, "The LCA problem revisited", 2000, for runs whose lengths are powers of two.
"""

from dataclasses import dataclass
from heapq import heappop, heappush
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import kernel

_BLOCK: Final = 32


@dataclass(frozen=True, slots=True, eq=False)
class RangeLeast:
    """ranks: int32 (entries,), each number from 0 on once; runs: int32 (levels, blocks), the least of 2**level blocks
    from a block on; at: int32 (entries,), where each rank stands."""

    ranks: NDArray[np.int32]
    runs: NDArray[np.int32]
    at: NDArray[np.int32]

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory."""
        return self.ranks.nbytes + self.runs.nbytes + self.at.nbytes

    def least(self, ranges: IntArray, wanted: int) -> NDArray[np.int32]:
        """Where the least numbers of some ranges stand, the least first. Shape (at most wanted,).

        ranges: int64 (ranges, 2), firsts and one past the lasts, none in another.

        >>> range_least(np.array([3, 0, 2, 1], np.int32)).least(np.array([[0, 1], [2, 4]]), 2).tolist()
        [3, 2]
        """
        return self.at[_least(self.ranks, self.runs, self.at, np.asarray(ranges, np.int64), wanted)]


def range_least(ranks: NDArray[np.int32]) -> RangeLeast:
    """ranks: int32 (entries,), each number from 0 on once."""
    at = np.empty_like(ranks)
    at[ranks] = np.arange(ranks.size, dtype=np.int32)
    blocks = -(-ranks.size // _BLOCK)
    padded = np.full(blocks * _BLOCK, np.iinfo(np.int32).max, np.int32)
    padded[: ranks.size] = ranks
    levels = [padded.reshape(blocks, _BLOCK).min(axis=1)] if blocks else [np.zeros(0, np.int32)]
    while (1 << len(levels)) <= blocks:
        half = 1 << (len(levels) - 1)
        longer = levels[-1].copy()
        longer[:-half] = np.minimum(longer[:-half], levels[-1][half:])
        levels.append(longer)
    return RangeLeast(ranks, np.stack(levels), at)


def apart(ranges: IntArray) -> NDArray[np.int64]:
    """Ranges of which none lies in another or begins in one, for those that may. int64 (ranges, 2), ascending."""
    joined: list[list[int]] = []
    for first, last in sorted(np.asarray(ranges).tolist()):
        if joined and first <= joined[-1][1]:
            joined[-1][1] = max(joined[-1][1], last)
        else:
            joined.append([first, last])
    return np.array(joined, np.int64).reshape(-1, 2)


@kernel
def _least_of(ranks: IntArray, runs: IntArray, first: int, last: int) -> np.int64:
    """The least number from first to last, which is one past the end."""
    least = np.int64(ranks[first])
    block, end = -(-first // _BLOCK), last // _BLOCK
    if block >= end:
        for i in range(first, last):
            least = min(least, np.int64(ranks[i]))
        return least
    for i in range(first, block * _BLOCK):
        least = min(least, np.int64(ranks[i]))
    for i in range(end * _BLOCK, last):
        least = min(least, np.int64(ranks[i]))
    level = 0
    while (2 << level) <= end - block:
        level += 1
    least = min(least, np.int64(runs[level, block]))
    return min(least, np.int64(runs[level, end - (1 << level)]))


@kernel
def _least(ranks: IntArray, runs: IntArray, at: IntArray, ranges: Any, wanted: int) -> NDArray[np.int32]:
    """The least numbers of all ranges, ascending: the range that has the least is cut in two at it, again and again."""
    found = np.empty(wanted, np.int32)
    count = 0
    # Empty, of a type that the compiler can tell.
    heap = [(np.int64(0), np.int64(0), np.int64(0)) for _ in range(0)]
    for number in range(ranges.shape[0]):
        first, last = ranges[number, 0], ranges[number, 1]
        if first < last:
            heappush(heap, (_least_of(ranks, runs, first, last), first, last))
    while count < wanted and len(heap) > 0:
        least, first, last = heappop(heap)
        found[count] = least
        count += 1
        middle = np.int64(at[least])
        if first < middle:
            heappush(heap, (_least_of(ranks, runs, int(first), int(middle)), first, middle))
        if middle + 1 < last:
            heappush(heap, (_least_of(ranks, runs, int(middle + 1), int(last)), middle + 1, last))
    return found[:count]
