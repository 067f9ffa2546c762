"""Numbers of candidates that cost something: worked out when they are first looked at, then kept."""

from collections.abc import Callable

import numpy as np

from pale_harbor.core.arrays import FloatArray, IntArray


class OnDemand:
    """One number for each of some candidates, worked out for those that somebody asks for.

    count: of candidates; work_out: gives the numbers of some of them, float64 (asked,).

    >>> squares = OnDemand(5, lambda numbers: numbers.astype(np.float64) ** 2)
    >>> squares.of(np.array([3, 1])).tolist()
    [9.0, 1.0]
    """

    def __init__(self, count: int, work_out: Callable[[IntArray], FloatArray]) -> None:
        self._count, self._work_out = count, work_out
        self._values: FloatArray | None = None

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory once something was asked."""
        return 8 * self._count

    def of(self, numbers: IntArray) -> FloatArray:
        """The numbers of some candidates: (asked,). Raises whatever working them out raises."""
        if self._values is None:
            self._values = np.full(self._count, np.nan)
        values = self._values[numbers]
        unknown = numbers[np.isnan(values)]
        if unknown.size:
            self._values[unknown] = self._work_out(unknown)
            values = self._values[numbers]
        return values
