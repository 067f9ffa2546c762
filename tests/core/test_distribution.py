"""Distributions: every value is in the one bin that holds it; bins grow by factors where values are far from even."""

from collections import Counter
from statistics import median_low

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.records import distribution_of

whole = st.integers(0, 10**6)
anything = st.floats(allow_nan=False, allow_infinity=False)


@given(values=st.lists(whole | anything, min_size=1, max_size=50))
def test_every_value_is_in_the_bin_that_holds_it(values: list[float]):
    found = distribution_of(Counter(map(float, values)))
    assert found is not None
    assert (found.least, found.median, found.greatest) == (min(values), median_low(values), max(values))
    assert sum(one.count for one in found.bins) == len(values)
    assert 1 <= len(found.bins) <= 18
    assert found.bins[0].low <= found.least
    assert found.bins[-1].high >= found.greatest
    for left, right in zip(found.bins, found.bins[1:], strict=False):
        assert left.high == right.low
    for number, one in enumerate(found.bins):
        last = number == len(found.bins) - 1
        assert one.count == sum(one.low <= value and (value < one.high or last) for value in values)


def bounds(counts: dict[float, int]) -> tuple[bool, list[float]]:
    found = distribution_of(counts)
    assert found is not None
    return found.even, [*(one.low for one in found.bins), found.bins[-1].high]


@pytest.mark.parametrize(
    ("counts", "even", "expected"),
    [
        ({5: 3}, True, [5, 5]),
        ({0: 2}, True, [0, 0]),
        ({1: 1, 16: 1}, True, [*range(1, 18)]),
        # More than 16 times the median: by powers of two, with a bin for zero where there is one.
        ({1: 2, 16: 1}, True, [*range(1, 18)]),
        ({1: 2, 17: 1}, False, [1, 2, 4, 8, 16, 32]),
        ({0: 2, 17: 1}, False, [0, 16, 32]),
        ({0: 1, 3: 1, 60: 1}, False, [0, 2, 4, 8, 16, 32, 64]),
        # Years are even, and so is whatever goes below zero.
        ({1800: 1, 1831: 1}, True, [*range(1800, 1833, 2)]),
        ({-1: 1, 0: 5, 30: 1}, True, [*range(-1, 32, 2)]),
        # Farther than 16 doublings: by tens, and where these do not reach by hundreds.
        ({1: 3, 65_535: 1}, False, [float(2**power) for power in range(17)]),
        ({1: 3, 65_536: 1}, False, [1, 10, 100, 1_000, 10_000, 100_000]),
        ({0.5: 3, 9: 1}, False, [0.5, 1, 2, 4, 8, 16]),
    ],
)
def test_bins_by_hand(counts: dict[float, int], even: bool, expected: list[float]):
    assert bounds(counts) == (even, expected)


def test_numbers_that_reach_very_far_are_in_a_few_bins():
    even, found = bounds({1e-300: 3, 1e300: 1})
    assert not even
    assert len(found) <= 18
    assert bounds({1.0: 3, 1.7e308: 1})[1][-1] == 1.7e308
    assert distribution_of({}) is None
