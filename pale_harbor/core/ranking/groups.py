"""One per group: of the records that share a value only the best is shown, with the count of the others."""

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.ranking.search import Scored


def best_of_groups(found: Scored, groups: IntArray, order_of_equals: IntArray) -> Scored:
    """The best record of each group; records without a group stay.

    groups: int32 (records of the slab,), −1 for none; order_of_equals: as for a search.
    """
    own = groups[found.record_ids]
    order = np.lexsort((order_of_equals[found.record_ids], -found.scores))
    grouped = order[own[order] >= 0]
    _, firsts = np.unique(own[grouped], return_index=True)
    kept = np.concatenate([grouped[firsts], np.flatnonzero(own < 0)])
    return Scored(found.record_ids[kept], found.scores[kept])


def group_sizes(found: Scored, groups: IntArray, group_count: int) -> NDArray[np.int64]:
    """How many matched records each group has: int64 (groups,)."""
    own = groups[found.record_ids]
    return np.bincount(own[own >= 0], minlength=group_count)
