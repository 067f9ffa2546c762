"""Folds: judged queries split so that what is tuned on some of them is tried on others."""

from collections.abc import Mapping

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.errors import BadInput


def folds_of(groups: Mapping[str, str], count: int, seed: int = 0) -> IntArray:
    """The fold of each query, in the order in which they are given: int64 (queries,).

    groups: by query what it belongs to; a group is never split, so that a query is not tried on its own variant. Groups
    are dealt out by chance from the seed, the largest first, each to the fold that has the fewest queries. Where there
    are fewer groups than folds, there are as many folds as groups. Raises BadInput for fewer than two groups.

    >>> sorted(folds_of({"a": "1", "b": "1", "c": "2"}, 5).tolist())
    [0, 0, 1]
    """
    members: dict[str, list[int]] = {}
    for number, group in enumerate(groups.values()):
        members.setdefault(group, []).append(number)
    if len(members) < 2:
        raise BadInput(
            "There is nothing to hold out: tuning takes at least two judged queries that are no variants of each other."
        )
    names = sorted(members)
    np.random.default_rng(seed).shuffle(names)
    names.sort(key=lambda name: -len(members[name]))
    folds = np.zeros(len(groups), np.int64)
    sizes = [0] * min(count, len(names))
    for name in names:
        smallest = sizes.index(min(sizes))
        folds[members[name]] = smallest
        sizes[smallest] += len(members[name])
    return folds
