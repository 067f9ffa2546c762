"""A sample of what is asked: promises that hold for every traffic, and examples by hand."""

from collections import Counter
from math import isclose
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.traffic.sampling import STRATA, drawn_sample, strata_of

TRAFFIC = st.lists(st.integers(1, 500), min_size=1, max_size=60).map(lambda asked: sorted(asked, reverse=True))


@given(TRAFFIC, st.integers(1, 70), st.integers(0, 1_000))
def test_a_sample_has_its_size_and_stands_for_all_that_was_asked(asked: list[int], count: int, seed: int):
    drawn = drawn_sample(asked, count, Random(seed))
    assert len(drawn) == len({one.place for one in drawn}) == min(count, len(asked))
    strata = strata_of(asked)
    assert all(one.stratum == strata[one.place] for one in drawn)
    for name in STRATA:
        own = [one for one in drawn if one.stratum == name]
        whole = sum(times for times, of in zip(asked, strata, strict=True) if of == name)
        if own:
            assert isclose(sum(one.weight for one in own), whole)


@given(TRAFFIC)
def test_strata_follow_one_another(asked: list[int]):
    places = [STRATA.index(one) for one in strata_of(asked)]
    assert places == sorted(places)


def test_a_query_is_drawn_as_often_as_it_is_asked():
    asked = [40, 20, 10, 10, 5, 5, 4, 3, 2, 1]
    times: Counter[int] = Counter()
    for seed in range(3_000):
        times.update(one.place for one in drawn_sample(asked, 4, Random(seed)))
    # The head is one query, the middle two (20 and 10): these are drawn always, and one of the tail.
    strata = strata_of(asked)
    assert strata == ["head", "middle", "middle", *["tail"] * 7]
    assert times[0] == 3_000
    assert times[1] == times[2] == 3_000
    tail = sum(asked[3:])
    assert all(abs(times[place] / 3_000 - asked[place] / tail) < 0.03 for place in range(3, 10))


def test_what_is_longer_than_the_distance_is_drawn_for_certain():
    # The tail is all but the first: of its 62 one query has 50, more than a third; of the other 12 one has 9, more than
    # half. So these two stand for themselves, and the third that is drawn for the three that are left.
    asked = [100, 50, 9, 1, 1, 1]
    assert strata_of(asked) == ["head", *["tail"] * 5]
    for seed in range(50):
        drawn = drawn_sample(asked, 4, Random(seed))
        assert [one.weight for one in drawn] == [100, 50, 9, 3]


@pytest.mark.parametrize("asked", [[1, 2], [0], [3, -1]])
def test_what_is_no_traffic_is_refused(asked: list[int]):
    with pytest.raises(ValueError, match="counted from 1 on"):
        drawn_sample(asked, 1, Random(1))


def test_nothing_asked_is_no_sample():
    assert drawn_sample([], 5, Random(1)) == []
