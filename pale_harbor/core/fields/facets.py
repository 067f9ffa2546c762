"""Facets: how many of the matched records have each value of a field."""

from collections import Counter
from collections.abc import Sequence
from math import floor

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.fields.column import FieldColumn
from pale_harbor.core.kernels import kernel


def facet(parts: Sequence[tuple[FieldColumn, IntArray]], step: float | None = None) -> list[tuple[str, int]]:
    """Values and how many records have them, over all slabs: the most frequent first, then in order.

    parts: each slab's column and matched records. step: numbers are counted in stretches of this
    width, each under its lower end, in order.
    """
    counts: Counter[str] = Counter()
    stretches: Counter[int] = Counter()
    for column, record_ids in parts:
        if step is None:
            own = _count(column.codes, column.firsts, record_ids, len(column.texts))
            for code in np.flatnonzero(own).tolist():
                counts[column.texts[code]] += int(own[code])
        else:
            first = column.first_numbers()[record_ids]
            for number, count in zip(
                *np.unique(np.floor(first[np.isfinite(first)] / step), return_counts=True), strict=True
            ):
                stretches[floor(number)] += int(count)
    if step is not None:
        return [(f"{number * step:g}", stretches[number]) for number in sorted(stretches)]
    return sorted(counts.items(), key=lambda item: (-item[1], item[0]))


@kernel
def _count(codes: IntArray, firsts: IntArray, record_ids: IntArray, size: int) -> IntArray:
    counts = np.zeros(size, np.int64)
    for record in record_ids:
        for i in range(firsts[record], firsts[record + 1]):
            counts[codes[i]] += 1
    return counts
