"""When slabs are joined: few slabs to search, and no record written over and over."""

from collections.abc import Sequence
from typing import Final

# A slab is joined with the one after it that has come to a quarter of its size. So slabs shrink by
# four from one to the next, a million records lie in ten at most, and each is written anew that often.
_SHARE: Final = 4


def first_to_join(living: Sequence[int], dead: Sequence[int]) -> int:
    """From which slab on all are joined into one; the number of slabs where all stay as they are.

    living, dead: records of each slab, oldest first.

    >>> first_to_join([1000, 100, 3], [0, 0, 0])
    3
    >>> first_to_join([1000, 100, 3, 1], [0, 0, 0, 0])
    2
    """
    first = len(living)
    size = 0
    for slab in range(len(living) - 1, -1, -1):
        if (size and living[slab] <= _SHARE * size) or _SHARE * dead[slab] > living[slab]:
            first = slab
        size += living[slab]
    return first
