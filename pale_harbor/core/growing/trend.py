"""How a measure goes as a collection grows: a straight line over doublings, with how sure it is."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats


@dataclass(frozen=True, slots=True)
class Trend:
    """A line of values over log2 of sizes. by_doubling: how much a doubling changes; the rest is what an interval of a
    value is made of (ordinary least squares)."""

    by_doubling: float
    mean_x: float
    mean_y: float
    spread_x: float
    residual: float
    points: int

    def at(self, size: float) -> tuple[float, float, float]:
        """The value expected at a size, and the bounds within which it lies nineteen times of twenty; in 0 to 1."""
        x = float(np.log2(size))
        value = self.mean_y + self.by_doubling * (x - self.mean_x)
        if self.points < 3 or self.spread_x == 0:
            return _bounded(value), 0.0, 1.0
        error = self.residual * float(np.sqrt(1 + 1 / self.points + (x - self.mean_x) ** 2 / self.spread_x))
        reach = float(stats.t.ppf(0.975, self.points - 2)) * error
        return _bounded(value), _bounded(value - reach), _bounded(value + reach)


def trend_of(sizes: Sequence[float], values: Sequence[float]) -> Trend:
    """The line through values at sizes, each size as often as it was tried.

    >>> trend = trend_of([100, 200, 400], [0.5, 0.4, 0.3])
    >>> round(trend.by_doubling, 3), round(trend.at(800)[0], 3)
    (-0.1, 0.2)
    """
    x, y = np.log2(np.asarray(sizes, np.float64)), np.asarray(values, np.float64)
    mean_x, mean_y = float(x.mean()), float(y.mean())
    spread = float(((x - mean_x) ** 2).sum())
    slope = float(((x - mean_x) * (y - mean_y)).sum()) / spread if spread else 0.0
    rest = y - mean_y - slope * (x - mean_x)
    residual = float(np.sqrt((rest**2).sum() / (x.size - 2))) if x.size > 2 else 0.0
    return Trend(slope, mean_x, mean_y, spread, residual, int(x.size))


def _bounded(value: float) -> float:
    return min(1.0, max(0.0, value))
