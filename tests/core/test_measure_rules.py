"""Rules of measures and their bands: every choice is stated, and every end of a band is reached by some grades."""

from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from pale_harbor.core.measures import (
    UNJUDGED,
    MeasureRules,
    Ties,
    Unjudged,
    WithoutRelevant,
    band,
    judged_list,
    measure,
    measure_lists,
    with_ties,
)
from pale_harbor.core.measures.measure import WHOLE_LIST, WITH_DEPTH

ALL = [f"{name}@3" for name in WITH_DEPTH] + list(WHOLE_LIST)


@settings(max_examples=60)
@given(
    known=st.lists(st.sampled_from([0, 1, 2, 3, None]), max_size=5),
    elsewhere=st.lists(st.integers(0, 3), max_size=4),
    name=st.sampled_from(ALL),
)
def test_a_band_is_from_the_worst_to_the_best_of_all_ways_to_judge(
    known: list[int | None], elsewhere: list[int], name: str
):
    keys = [str(i) for i in range(len(known))]
    own = {key: grade for key, grade in zip(keys, known, strict=True) if grade is not None}
    own |= {f"x{i}": grade for i, grade in enumerate(elsewhere)}
    wanted = measure(name)
    looked_at = [key for key in keys[: wanted.depth] if key not in own]
    if wanted.kind in ("judged", "rbp_residual"):
        looked_at = []
    values = [
        wanted.of(judged_list(keys, own | dict(zip(looked_at, grades, strict=True))))
        for grades in product(range(4), repeat=len(looked_at))
    ]
    found = band(wanted, judged_list(keys, own))
    # Until they are judged they count as off topic, to bpref as not there: its value may lie outside of its band.
    assert found.worst == pytest.approx(min(values), abs=1e-12)
    assert found.best == pytest.approx(max(values), abs=1e-12)


def test_a_band_of_ndcg_by_hand():
    # One record is known to be exactly it and stands first; an unjudged one below it can only take from that.
    found = band(measure("ndcg@2"), judged_list(["a", "x"], {"a": 1}))
    assert found.best == 1
    assert found.worst == pytest.approx((1 + 7 * 0.6309297535714575) / (7 + 0.6309297535714575))


def test_equal_scores_stand_as_the_rule_says():
    keys, scores, grades = ["a", "b", "c", "d"], [2.0, 1.0, 1.0, 1.0], {"b": 1, "c": 3, "d": 0}
    assert with_ties(keys, scores, grades, Ties.BY_KEY) == ["a", "b", "c", "d"]
    assert with_ties(keys, scores, grades, Ties.BEST_FIRST) == ["a", "c", "b", "d"]
    assert with_ties(keys, scores, grades, Ties.WORST_FIRST) == ["a", "d", "b", "c"]


def test_what_a_pin_or_a_second_stage_put_in_front_stays_there():
    keys, scores, grades = ["pinned", "a", "b", "far"], [0.5, 2.0, 2.0, 0.5], {"b": 3, "far": 3}
    assert with_ties(keys, scores, grades, Ties.BEST_FIRST) == ["pinned", "b", "a", "far"]
    assert with_ties(keys, scores, grades, Ties.WORST_FIRST) == keys
    assert with_ties([], [], {}, Ties.BEST_FIRST) == []


@given(
    scores=st.dictionaries(st.sampled_from("abcdefgh"), st.sampled_from([1.0, 2.0]), min_size=1),
    grades=st.dictionaries(st.sampled_from("abcdefgh"), st.integers(0, 3)),
)
def test_the_order_by_key_lies_between_the_worst_and_the_best(scores: dict[str, float], grades: dict[str, int]):
    keys = sorted(scores, key=lambda key: (-scores[key], key))
    in_order = [scores[key] for key in keys]
    worst, by_key, best = (
        measure("ndcg@4").of(judged_list(with_ties(keys, in_order, grades, ties), grades))
        for ties in (Ties.WORST_FIRST, Ties.BY_KEY, Ties.BEST_FIRST)
    )
    assert worst - 1e-12 <= by_key <= best + 1e-12


def test_unjudged_records_are_off_topic_or_not_there():
    lists, grades = {"q": ["x", "y", "a"]}, {"q": {"a": 2, "b": 0}}
    measures = [measure("rr"), measure("judged@3")]
    usual = measure_lists(lists, grades, measures)
    without = measure_lists(lists, grades, measures, MeasureRules(unjudged=Unjudged.LEFT_OUT))
    assert usual.means == {"rr": pytest.approx(1 / 3), "judged@3": pytest.approx(1 / 3)}
    assert without.means == {"rr": 1, "judged@3": pytest.approx(1 / 3)}


def test_queries_without_a_relevant_record_count_as_the_rule_says():
    lists = {"found": ["a"], "wrong": ["b"], "empty": []}
    grades = {"found": {"a": 1}, "wrong": {"b": 0}}

    def mean(rule: WithoutRelevant) -> tuple[float, int]:
        got = measure_lists(lists, grades, [measure("rr")], MeasureRules(without_relevant=rule), ["empty"])
        return got.means["rr"], len(got.per_query)

    assert mean(WithoutRelevant.ZERO) == (pytest.approx(1 / 3), 3)
    assert mean(WithoutRelevant.LEFT_OUT) == (1, 1)
    assert mean(WithoutRelevant.EMPTY_IS_RIGHT) == (pytest.approx(2 / 3), 3)


def test_a_query_weighs_as_often_as_it_is_asked():
    lists, grades = {"often": ["a"], "seldom": ["b"]}, {"often": {"a": 1}, "seldom": {"a": 1}}
    got = measure_lists(lists, grades, [measure("rr")], weights={"often": 90.0, "seldom": 10.0})
    assert got.means == {"rr": 0.9}
    assert measure_lists(lists, grades, [measure("rr")], weights={"often": 0.1}).means == {"rr": 1.0}


def test_of_no_query_and_of_none_that_weighs_anything_there_is_no_mean():
    lists, grades = {"one": ["a"]}, {"one": {"b": 1}}
    assert measure_lists({}, {}, [measure("rr")]).means == {}
    assert measure_lists(lists, grades, [measure("rr")], weights={"one": 0.0}).means == {}
    assert measure_lists(lists, grades, [measure("rr")]).means == {"rr": 0.0}


def test_unjudged_is_no_grade():
    assert judged_list(["x"], {}).grades.tolist() == [UNJUDGED]
