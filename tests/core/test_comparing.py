"""Comparing: the tests are SciPy's where SciPy has them, false alarms are as rare as claimed, intervals cover."""

from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from pale_harbor.core.comparing import (
    bootstrap_interval,
    chance_of_one,
    comparison,
    deciding_records,
    detectable_difference,
    holm,
    paired_t_p,
    queries_needed,
    randomisation_p,
    wilcoxon_p,
)
from pale_harbor.core.measures import USUAL_RULES, MeasureRules, Unjudged, measure, measure_lists

differences_strategy = st.lists(st.integers(-20, 20), min_size=2, max_size=80).map(
    lambda values: np.array(values, float) / 20
)


@given(differences=differences_strategy.filter(lambda values: len(set(values.tolist())) > 1))
def test_the_t_test_is_scipys(differences: np.ndarray):
    expected = stats.ttest_rel(differences, np.zeros(differences.size)).pvalue
    assert paired_t_p(differences) == pytest.approx(expected, rel=1e-9)


@given(differences=differences_strategy.filter(lambda values: np.count_nonzero(values) > 0))
def test_the_signed_rank_test_is_scipys_approximation_where_differences_tie(differences: np.ndarray):
    moved = differences[differences != 0]
    if np.unique(np.abs(moved)).size == moved.size <= 50:
        expected = stats.wilcoxon(moved, method="exact")[1]
    else:
        expected = stats.wilcoxon(moved, method="approx", correction=False, zero_method="wilcox")[1]
    assert wilcoxon_p(differences) == pytest.approx(min(1.0, expected), rel=1e-9)


@pytest.mark.parametrize("count", [1, 2, 5, 20, 50, 60])
def test_the_signed_rank_test_is_scipys_where_none_tie(count: int):
    differences = np.random.default_rng(count).normal(0.2, 1, count)
    method = "exact" if count <= 50 else "approx"
    expected = stats.wilcoxon(differences, method=method, correction=False)[1]
    assert wilcoxon_p(differences) == pytest.approx(expected, rel=1e-9)


@given(values=st.lists(st.integers(-6, 6), min_size=1, max_size=8))
def test_few_differences_are_flipped_in_every_way(values: list[int]):
    sums = [
        abs(sum(s * v for s, v in zip(signs, values, strict=True))) for signs in product((1, -1), repeat=len(values))
    ]
    expected = sum(one >= abs(sum(values)) for one in sums) / len(sums)
    assert randomisation_p(np.array(values, float), np.random.default_rng(0)) == pytest.approx(expected)


def mean_difference(first: np.ndarray, second: np.ndarray, axis: int) -> np.ndarray:
    return np.mean(first - second, axis=axis)


def test_flips_by_chance_come_near_to_scipys_permutation_test():
    differences = np.random.default_rng(5).normal(0.15, 0.5, 40)
    expected = stats.permutation_test(
        (differences, np.zeros(40)),
        mean_difference,
        permutation_type="samples",
        n_resamples=20_000,
        rng=np.random.default_rng(1),
    ).pvalue
    assert randomisation_p(differences, np.random.default_rng(2)) == pytest.approx(expected, abs=0.01)


def test_the_randomisation_test_raises_false_alarms_as_often_as_it_claims():
    rng = np.random.default_rng(20)
    trials, alarms = 1_500, np.zeros(3)
    levels = np.array([0.01, 0.05, 0.2])
    for _ in range(trials):
        # Two equal rankers on 30 queries: skewed values, many ties, as measures are.
        pair = np.where(rng.random((2, 30)) < 0.4, 0.0, rng.beta(0.5, 1.5, (2, 30)))
        alarms += randomisation_p(pair[1] - pair[0], rng) < levels
    # Three standard errors of a share that is counted in so many trials.
    assert np.all(np.abs(alarms / trials - levels) < 3 * np.sqrt(levels * (1 - levels) / trials))


def test_holm_is_as_published_and_never_below_the_p_values():
    assert holm([0.01, 0.04, 0.03, 0.005]) == pytest.approx([0.03, 0.06, 0.06, 0.02])
    assert holm([]) == []


@given(p_values=st.lists(st.floats(0, 1), max_size=8))
def test_holm_keeps_the_order_and_corrects_upwards(p_values: list[float]):
    corrected = holm(p_values)
    for (p, c), (other_p, other_c) in product(zip(p_values, corrected, strict=True), repeat=2):
        assert p <= c <= 1
        assert p > other_p or c <= other_c


def test_intervals_cover_the_true_mean_about_as_often_as_they_say():
    rng = np.random.default_rng(3)
    hits = 0
    for _ in range(300):
        interval = bootstrap_interval(rng.beta(2, 2, 60))
        hits += interval.low <= 0.5 <= interval.high
    assert 0.9 <= hits / 300 <= 0.985


def test_an_interval_of_weighted_values_is_about_the_weighted_mean():
    values = np.array([1.0] * 20 + [0.0] * 20)
    often = np.array([9.0] * 20 + [1.0] * 20)
    interval = bootstrap_interval(values, often)
    assert interval.low < 0.9 < interval.high
    assert bootstrap_interval(values).low < 0.5 < bootstrap_interval(values).high < 0.9


def test_a_difference_is_found_four_times_in_five_with_as_many_queries_as_are_said_to_be_needed():
    count = queries_needed(0.25, 0.08)
    assert detectable_difference(0.25, count) <= 0.08 < detectable_difference(0.25, count - 1)
    rng = np.random.default_rng(11)
    found = sum(paired_t_p(rng.normal(0.08, 0.25, count)) < 0.05 for _ in range(1_000))
    assert 0.76 <= found / 1_000 <= 0.84


def test_many_looks_find_something_by_luck():
    assert chance_of_one(0.05, 14) == pytest.approx(1 - 0.95**14)
    assert [chance_of_one(0.0, 9), chance_of_one(1.0, 9)] == [0, 1]


def test_a_comparison_counts_wins_losses_and_ties_of_shared_queries():
    first = {"a": 0.2, "b": 0.5, "c": 0.5, "only": 1.0}
    got = comparison(first, {"a": 0.8, "b": 0.4, "c": 0.5003})
    assert (got.queries, got.gained, got.lost, got.tied) == (3, 1, 1, 1)
    assert got.gain == pytest.approx((0.6 - 0.1 + 0.0003) / 3)
    assert got.interval.low <= got.gain <= got.interval.high
    assert got == comparison(first, {"a": 0.8, "b": 0.4, "c": 0.5003})


def test_a_comparison_of_a_ranker_with_itself_finds_nothing():
    same = {"a": 0.2, "b": 0.7}
    got = comparison(same, same)
    assert (got.gain, got.randomisation, got.t, got.wilcoxon, got.tied, got.needed) == (0, 1, 1, 1, 2, 0)
    assert comparison({}, {}).queries == 0


def test_what_is_open_is_worth_the_gain_that_judging_it_brings():
    first = {"q": ["a", "x", "b"], "r": ["a"]}
    second = {"q": ["y", "a", "x"], "r": ["a"]}
    grades = {"q": {"a": 2, "b": 1}, "r": {"a": 1}}
    ndcg = measure("ndcg@3")
    found = deciding_records(ndcg, USUAL_RULES, first, second, grades)
    assert [(one.query, one.record, one.ranks) for one in found.open] == [("q", "y", (0, 1)), ("q", "x", (2, 3))]

    def gain(of_q: dict[str, int]) -> float:
        both = [measure_lists(lists, grades | {"q": of_q}, [ndcg]).means["ndcg@3"] for lists in (first, second)]
        return both[1] - both[0]

    for one in found.open:
        known = grades["q"]
        assert one.swing == pytest.approx(gain(known | {one.record: 3}) - gain(known | {one.record: 0}))


KEYS = list("abcdefgh")
ranked_keys = st.lists(st.sampled_from(KEYS), unique=True)


@given(
    first=ranked_keys,
    second=ranked_keys,
    known=st.dictionaries(st.sampled_from(KEYS), st.integers(0, 3)),
    name=st.sampled_from(["ndcg@2", "ap", "rr", "bpref", "rprec", "err@3", "recall@2", "judged@3"]),
    unjudged=st.sampled_from(Unjudged),
    looked_through=st.integers(1, 3),
)
def test_a_swing_is_what_either_grade_would_make_of_the_gain(
    first: list[str], second: list[str], known: dict[str, int], name: str, unjudged: Unjudged, looked_through: int
):
    wanted, rules = measure(name), MeasureRules(unjudged=unjudged)

    def gain(grades: dict[str, int]) -> float:
        both = [measure_lists({"q": keys}, {"q": grades}, [wanted], rules).means[name] for keys in (first, second)]
        return both[1] - both[0]

    lists, grades = ({"q": first}, {"q": second}), {"q": known}
    found = {
        one.record: one for one in deciding_records(wanted, rules, *lists, grades, looked_through=looked_through).open
    }
    depth = wanted.depth or looked_through
    for key in KEYS:
        swing = gain(known | {key: 3}) - gain(known | {key: 0})
        if key in known or key not in {*first[:depth], *second[:depth]} or not swing:
            assert key not in found
            continue
        assert found[key].swing == pytest.approx(swing)
        assert found[key].ranks == tuple(keys.index(key) + 1 if key in keys[:depth] else 0 for keys in (first, second))


def test_enough_is_judged_when_the_rest_could_not_turn_the_gain():
    first, second = {"q": ["x", "a"], "r": ["a", "z"]}, {"q": ["a", "x"], "r": ["z", "a"]}
    grades = {"q": {"a": 3}, "r": {"a": 3}}
    found = deciding_records(measure("ndcg@2"), USUAL_RULES, first, second, grades)
    assert found.enough == len(found.open) == 2
    settled = deciding_records(
        measure("ndcg@2"), USUAL_RULES, {"q": ["a", "x"]}, {"q": ["b", "x"]}, {"q": {"a": 3, "b": 0}}
    )
    assert settled.enough == 0
    one = deciding_records(measure("ndcg@2"), USUAL_RULES, {"q": ["x", "a"]}, {"q": ["a", "x"]}, {"q": {"a": 3}})
    assert one.enough == len(one.open) == 1


@settings(max_examples=30)
@given(seed=st.integers(0, 1_000))
def test_the_same_seed_gives_the_same_digits(seed: int):
    values = np.random.default_rng(seed).random(25) - 0.4
    assert bootstrap_interval(values, seed=seed) == bootstrap_interval(values, seed=seed)
    one, other = (randomisation_p(values, np.random.default_rng(seed)) for _ in range(2))
    assert one == other
