"""Finds which stretches of a text are the same, so that each distinct one is worked on once."""

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.kernels import kernel


@kernel
def distinct_stretches(codes: IntArray, starts: IntArray, ends: IntArray, ids: IntArray, firsts: IntArray) -> int:
    """Numbers equal stretches alike, in order of first sight; returns how many there are.

    codes: uint32 (code points,); starts, ends: int32 (stretches,);
    ids: int32 (stretches,), filled in: the number of each stretch;
    firsts: int32 (stretches,), filled in: for each number, the first stretch that has it.
    """
    size = 16
    while size < 2 * starts.size:
        size *= 2
    slots = np.full(size, -1, np.int32)
    count = 0
    for i in range(starts.size):
        start, end = starts[i], ends[i]
        mixed = np.uint64(0xCBF29CE484222325)  # FNV-1a, 64 bits, a code point at a time
        for j in range(start, end):
            mixed = (mixed ^ np.uint64(codes[j])) * np.uint64(0x100000001B3)
        slot = np.int64((mixed ^ (mixed >> np.uint64(29))) & np.uint64(size - 1))
        while True:
            seen = slots[slot]
            if seen < 0:
                slots[slot] = count
                firsts[count] = i
                ids[i] = count
                count += 1
                break
            other = starts[firsts[seen]]
            if ends[firsts[seen]] - other == end - start:
                same = True
                for j in range(end - start):
                    if codes[other + j] != codes[start + j]:
                        same = False
                        break
                if same:
                    ids[i] = seen
                    break
            slot = (slot + 1) & (size - 1)
    return count
