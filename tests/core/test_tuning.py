"""Tuning: dials, ways to search, folds, rails; and that what is found is tried where nobody looked."""

from collections.abc import Callable, Sequence

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.arrays import FloatArray, Mask
from pale_harbor.core.comparing.comparison import comparison
from pale_harbor.core.comparing.verdict import Outcome, tried_in
from pale_harbor.core.guard.rule import GuardRule
from pale_harbor.core.knobs import dotted
from pale_harbor.core.tuning.dials import Dial, Setting, distance, standing, turned
from pale_harbor.core.tuning.finding import Search, as_good_within_luck, find, mean_of, tune
from pale_harbor.core.tuning.folds import folds_of
from pale_harbor.core.tuning.rails import Cost, CostRail, rail
from pale_harbor.core.tuning.searching import BATCH, UNFIT, Way, grid, random_search
from pale_harbor.core.tuning.ways import searching
from pale_harbor.errors import BadInput

WEIGHT = Dial(("readings", 0, "weight"), (0, 1, 2, 3, 4), 1)
B = Dial(("readings", 0, "b"), (0.0, 0.5, 1.0), 1)
HOW = Dial(("combine", "how"), ("sum", "strongest"), 0, ordered=False)
DIALS = [WEIGHT, B, HOW]
HERE = standing(DIALS)


class AllTime:
    """A watch under which there is time for everything; notes which parts began."""

    def __init__(self, parts: int = 1_000, steps: int = 100_000) -> None:
        self.begun: list[int] = []
        self.left, self.steps = parts, steps

    def begins(self, part: int, parts: int) -> bool:
        self.begun.append(part)
        self.left -= 1
        return self.left >= 0

    def goes_on(self) -> bool:
        self.steps -= 1
        return self.steps >= 0


class Lists:
    """Values of settings: what each query gives by a function of the setting, counted."""

    def __init__(self, value: Callable[[Setting, int], float]) -> None:
        self.value, self.asked = value, dict[Setting, int]()

    def __call__(self, settings: Sequence[Setting]) -> list[FloatArray]:
        for one in settings:
            self.asked[one] = self.asked.get(one, 0) + 1
        return [np.array([self.value(one, query) for query in range(12)]) for one in settings]


class Noise:
    """Values that are drawn anew for each setting."""

    def __init__(self, seed: int) -> None:
        self.rng, self.known = np.random.default_rng(seed), dict[Setting, FloatArray]()

    def __call__(self, settings: Sequence[Setting]) -> list[FloatArray]:
        for one in settings:
            if one not in self.known:
                self.known[one] = self.rng.beta(0.5, 0.5, 60)
        return [self.known[one] for one in settings]


def search(way: Way = Way.COORDINATE) -> Search:
    return Search(way, 500, 0, np.ones(12))


def fits(_setting: Setting, _queries: Mask) -> bool:
    return True


def peak(setting: Setting, _query: int) -> float:
    """Best at weight 3 and b 0; which way readings combine makes no difference."""
    return 1 - abs(setting[0] - 3) / 10 - setting[1] / 20


@pytest.mark.parametrize("way", list(Way))
def test_every_way_finds_the_best_setting_and_leaves_alone_what_makes_no_difference(way: Way):
    found = find(DIALS, Lists(peak), fits, np.ones(12, np.bool_), search(way), AllTime())
    assert found.best == found.simplest == (3, 0, 0)
    assert found.tried[HERE] == pytest.approx(0.75)


def test_a_search_tries_no_more_than_it_may_and_none_twice():
    for way, most in ((Way.COORDINATE, 6), (Way.RANDOM, 7), (Way.SURROGATE, 9)):
        tried: list[Setting] = []
        steps = searching(way, DIALS, most, 0)
        batch = next(steps, None)
        while batch:
            tried += batch
            try:
                batch = steps.send([peak(one, 0) for one in batch])
            except StopIteration:
                break
        assert len(tried) == len(set(tried)) <= most, way
        assert HERE in tried


def test_a_grid_is_every_setting_and_refused_where_it_is_larger_than_what_may_be_tried():
    assert sorted(one for batch in grid(DIALS, 30) for one in batch) == [
        (w, b, h) for w in range(5) for b in range(3) for h in range(2)
    ]
    assert [len(batch) for batch in grid(DIALS, 30)] == [BATCH, 30 - BATCH]
    with pytest.raises(BadInput, match="has 30 settings, and at most 29 may be tried"):
        grid(DIALS, 29)


def test_random_settings_follow_from_the_seed_and_are_all_of_them_where_there_are_few():
    def drawn(most: int, seed: int) -> list[Setting]:
        return [one for batch in random_search(DIALS, most, seed) for one in batch]

    assert drawn(8, 1) == drawn(8, 1) != drawn(8, 2)
    assert drawn(8, 1)[0] == HERE
    assert len(drawn(1_000, 1)) == 30


def test_coordinate_ascent_leaves_a_knob_where_it_stands_unless_another_value_is_better():
    flat = find(DIALS, Lists(lambda _setting, _query: 0.5), fits, np.ones(12, np.bool_), search(), AllTime())
    assert flat.best == flat.simplest == HERE


def test_the_simplest_setting_within_a_standard_error_of_the_best_is_found():
    # A second knob adds a little on half of the queries and takes nearly as much on the others: luck.
    def value(setting: Setting, query: int) -> float:
        return 0.3 + 0.1 * (setting[0] == 3) + (0.021 if query % 2 else -0.02) * (setting[1] == 0)

    found = find(DIALS, Lists(value), fits, np.ones(12, np.bool_), search(), AllTime())
    assert found.best == (3, 0, 0)
    assert found.simplest == (3, 1, 0)


def test_as_good_within_luck_is_one_standard_error_of_the_paired_differences():
    best = np.array([0.4, 0.2, 0.0, 0.2])
    # Differences with mean m and a standard deviation of 0.1633, so a standard error of 0.0816.
    other = best - np.array([0.2, 0.0, -0.2, 0.0])
    assert as_good_within_luck(best, other - 0.081, np.ones(4))
    assert not as_good_within_luck(best, other - 0.082, np.ones(4))
    assert as_good_within_luck(best, best, np.ones(4))
    # One query tells nothing of luck.
    assert not as_good_within_luck(np.array([0.5]), np.array([0.4]), np.ones(1))


def test_queries_count_as_much_as_they_weigh():
    assert mean_of(np.array([1.0, 0.0]), np.array([3.0, 1.0])) == 0.75
    assert mean_of(np.array([1.0, 0.0]), np.zeros(2)) == 0.0

    # Two queries want the first dial at 4, ten at 0; the two are asked far more often.
    def value(setting: Setting, query: int) -> float:
        return 1 - abs(setting[0] - (4 if query < 2 else 0)) / 4

    weights = np.where(np.arange(12) < 2, 100.0, 1.0)
    weighed = Search(Way.COORDINATE, 500, 0, weights)
    assert find([WEIGHT], Lists(value), fits, np.ones(12, np.bool_), weighed, AllTime()).best == (4,)
    assert find([WEIGHT], Lists(value), fits, np.ones(12, np.bool_), search(), AllTime()).best == (0,)


def test_a_setting_that_breaks_a_rail_is_never_found():
    def low(setting: Setting, _queries: Mask) -> bool:
        return setting[0] <= 2

    for way in Way:
        found = find(DIALS, Lists(peak), low, np.ones(12, np.bool_), search(way), AllTime())
        assert found.best == (2, 0, 0), way
        assert all(one[0] <= 2 for one in found.tried)


def test_where_nothing_keeps_the_rails_what_stands_is_found():
    found = find(DIALS, Lists(peak), lambda _setting, _queries: False, np.ones(12, np.bool_), search(), AllTime())
    assert (found.best, found.simplest, found.tried) == (HERE, HERE, {})
    assert UNFIT < 0


def test_each_query_is_valued_by_what_was_found_without_its_fold():
    # Every fold's own queries would want another value of the dial than all the others.
    folds = np.arange(12) % 3

    def value(setting: Setting, query: int) -> float:
        return 1.0 if setting[0] == query % 3 + 2 else 0.5 if setting[0] == 1 else 0.0

    tuned = tune([WEIGHT], Lists(value), fits, folds, search(), AllTime())
    assert tuned.held_out.all()
    # Each of the others is worth a half on average, as what stands is: nothing is turned, and nothing gained.
    assert [one.simplest for one in tuned.folds] == [(1,)] * 3
    assert tuned.after.tolist() == [0.5] * 12


def test_what_holds_everywhere_holds_held_out():
    tuned = tune(DIALS, Lists(peak), fits, np.arange(12) % 4, search(), AllTime())
    assert tuned.found.simplest == (3, 0, 0)
    assert tuned.after == pytest.approx(np.ones(12))


def test_a_tuning_that_is_stopped_says_what_it_had_held_out():
    watch = AllTime(parts=2)
    tuned = tune(DIALS, Lists(peak), fits, np.arange(12) % 4, search(), watch)
    assert watch.begun == [0, 1, 2]
    assert len(tuned.folds) == 1
    assert tuned.held_out.tolist() == [query % 4 == 0 for query in range(12)]
    # With no time at all, what stands is found.
    assert find(DIALS, Lists(peak), fits, np.ones(12, np.bool_), search(), AllTime(steps=0)).best == HERE


def test_the_same_seed_and_values_ask_for_the_same_settings_again():
    for way in Way:
        first, second = Lists(peak), Lists(peak)
        for lists in (first, second):
            tune(DIALS, lists, fits, np.arange(12) % 3, search(way), AllTime())
        assert first.asked == second.asked


def test_on_noise_no_gain_is_reported_in_nineteen_of_twenty_runs():
    gains = 0
    for run in range(20):
        shuffled = Noise(run)
        folds = folds_of({str(i): str(i) for i in range(60)}, 5, run)
        tuned = tune(DIALS, shuffled, fits, folds, Search(Way.GRID, 100, run, np.ones(60)), AllTime())
        (before,) = shuffled([HERE])
        first, second = ({str(i): float(v) for i, v in enumerate(own)} for own in (before, tuned.after))
        found = comparison(first, second)
        gains += tried_in(found, 1).outcome is Outcome.BETTER
    assert gains <= 1


def test_dials_say_where_they_are_and_how_far_they_were_turned():
    assert dotted(["kinds", 2, "blend", "k"]) == "kinds[2].blend.k"
    assert turned(DIALS, (1, 0, 1)) == [1, 2]
    assert distance(DIALS, HERE) == (0, 0.0)
    assert distance(DIALS, (3, 1, 1)) == (2, 1.5)


@given(st.lists(st.integers(0, 6), min_size=2, max_size=40), st.integers(2, 8), st.integers(0, 5))
def test_folds_keep_groups_whole_and_are_nearly_even(groups: list[int], count: int, seed: int):
    if len(set(groups)) < 2:
        groups = [*groups, 7]
    named = {f"q{i}": str(group) for i, group in enumerate(groups)}
    folds = folds_of(named, count, seed)
    for group in set(groups):
        assert len({int(fold) for fold, own in zip(folds, groups, strict=True) if own == group}) == 1
    sizes = np.bincount(folds)
    assert len(sizes) == min(count, len(set(groups)))
    assert sizes.max() - sizes.min() <= max(groups.count(one) for one in set(groups))
    assert folds.tolist() == folds_of(named, count, seed).tolist()


def test_one_group_alone_cannot_be_held_out():
    with pytest.raises(BadInput, match="nothing to hold out"):
        folds_of({"a": "same", "b": "same"}, 5)


def test_rails_bound_what_an_answer_costs_and_what_measures_may_do():
    before = Cost(1_000_000, 4.0)
    twice = rail("index at most 2x")
    assert isinstance(twice, CostRail)
    assert twice.holds(before, Cost(2_000_000, 99))
    assert not twice.holds(before, Cost(2_000_001, 0))
    megabyte = rail("Index at most 1.5 MB")
    assert isinstance(megabyte, CostRail)
    assert [megabyte.holds(before, Cost(size, 0)) for size in (1_500_000, 1_500_001)] == [True, False]
    quick = rail("time at most 5 ms")
    assert isinstance(quick, CostRail)
    assert [quick.holds(before, Cost(0, ms)) for ms in (5.0, 5.01)] == [True, False]
    seconds = rail("time at most 0.002 s")
    assert isinstance(seconds, CostRail)
    assert [seconds.holds(before, Cost(0, ms)) for ms in (2.0, 2.01)] == [True, False]
    slower = rail("time at most 1.5×")
    assert isinstance(slower, CostRail)
    assert [slower.holds(before, Cost(0, ms)) for ms in (6.0, 6.01)] == [True, False]
    assert isinstance(rail("tag:code rr may not drop"), GuardRule)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("index at most 5 ms", "kb or mb or gb or x can stand there, not ms"),
        ("time at most 5 MB", "ms or s or x can stand there, not mb"),
        ("index below 5", 'Write "index at most 2x"'),
        ("faster please", "is no rule"),
    ],
)
def test_what_is_no_rail_is_said(text: str, says: str):
    with pytest.raises(BadInput, match=says):
        rail(text)
