"""How numbers are spread: bins, and the least, the middle and the greatest of them."""

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import ceil, floor, log2, log10
from typing import Final, TypeVar

_BINS: Final = 16
# Bins grow by a factor where the greatest is more than so many times the median.
_SKEWED: Final = 16
_MOST_DIGITS: Final = 308
Number = TypeVar("Number", int, float)


@dataclass(frozen=True, slots=True)
class Bin:
    """How many values lie from `low` to `high`, the upper bound left out but for the last bin."""

    low: float
    high: float
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Distribution:
    """How values are spread. even: all bins are as wide; else each is a factor wider than the one before, but for a
    first one for zero. median: the lower one of two in the middle."""

    bins: tuple[Bin, ...]
    even: bool
    least: float
    median: float
    greatest: float


def distribution_of(counts: Mapping[Number, int]) -> Distribution | None:
    """The distribution of values that are counted; None of none.

    Values that are far from even (the greatest more than 16 times the median, none below zero) fall into bins that
    grow by 2, or where 16 of these do not reach by 10, 100 and so on; others into 16 even ones. Bins of whole numbers
    begin at whole numbers.

    >>> found = distribution_of({1: 5, 2: 3, 3: 1, 100: 1})
    >>> found.least, found.median, found.greatest, found.even
    (1, 1, 100, False)
    >>> [(one.low, one.high, one.count) for one in found.bins][:2]
    [(1.0, 2.0, 5), (2.0, 4.0, 4)]
    """
    if not counts:
        return None
    values = sorted(counts)
    least, greatest = values[0], values[-1]
    median = _median(values, counts)
    whole = all(float(value).is_integer() for value in values)
    skewed = least >= 0 and greatest > _SKEWED * max(median, 1 if whole else 0)
    bounds = _growing(values) if skewed else _even(least, greatest, whole=whole)
    in_bins = [0] * (len(bounds) - 1)
    for value in values:
        in_bins[min(max(bisect_right(bounds, value) - 1, 0), len(in_bins) - 1)] += counts[value]
    bins = tuple(Bin(low, high, count) for low, high, count in zip(bounds, bounds[1:], in_bins, strict=False))
    return Distribution(bins=bins, even=not skewed, least=least, median=median, greatest=greatest)


def _median(values: list[Number], counts: Mapping[Number, int]) -> Number:
    half = sum(counts.values()) / 2
    seen = 0
    for value in values:
        seen += counts[value]
        if seen >= half:
            return value
    return values[-1]


def _even(least: float, greatest: float, *, whole: bool) -> list[float]:
    if least == greatest:
        return [least, least]
    if whole:
        width = -(-(int(greatest) + 1 - int(least)) // _BINS)
        return list(range(int(least), int(greatest) + 1 + width, width))
    each = (greatest - least) / _BINS
    return [least + number * each for number in range(_BINS)] + [greatest]


def _growing(values: Sequence[float]) -> list[float]:
    """Bounds by powers of two or, of numbers that reach further, of ten; a first bin for zero."""
    first, greatest = next(value for value in values if value > 0), values[-1]
    base = 2 if log2(greatest) - log2(first) < _BINS else 10
    power = floor(log2(first) if base == 2 else log10(first))
    step = 1 if base == 2 else max(1, ceil((log10(greatest) - log10(first)) / _BINS))
    bounds: list[float] = [0] if values[0] == 0 else []
    while not bounds or bounds[-1] <= greatest:
        # Beyond the greatest number that there is nothing has to be.
        if power > _MOST_DIGITS:
            return [*bounds, greatest]
        bounds.append(float(base) ** power)
        power += step
    return bounds
