"""Measures: the published values, the formulas by hand, and laws that hold for every list."""

import json
from math import log2
from pathlib import Path
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.measures import UnknownMeasure, in_list_order, judged_list, measure, measure_lists
from pale_harbor.core.measures.measure import WHOLE_LIST, WITH_DEPTH
from pale_harbor.formats.trec import grades_in, read_grades, read_run, run_in
from tests.core.plain_measures import PLAIN, PlainList

DATA = Path(__file__).parents[1] / "data/measures"
EXPECTED = json.loads((DATA / "expected.json").read_text("utf-8"))

QUALITY = [f"{name}@5" for name in WITH_DEPTH if name != "judged"] + [n for n in WHOLE_LIST if n != "rbp_residual"]

grades_strategy = st.dictionaries(st.sampled_from("abcdefghijkl"), st.integers(0, 3), max_size=12)
lists_strategy = st.lists(st.sampled_from("abcdefghijklmnop"), unique=True, max_size=16)


@pytest.mark.parametrize("example", sorted(EXPECTED))
def test_every_published_value_is_met(example: str):
    expected = EXPECTED[example]
    lists = {query: in_list_order(scores) for query, scores in read_run(DATA / f"{example}.run.txt").items()}
    grades = read_grades(DATA / f"{example}.grades.txt")
    got = measure_lists(lists, grades, [measure(name) for name in expected["measures"]])
    assert got.means == pytest.approx(expected["measures"], abs=1e-9)
    assert set(got.per_query) == set(expected["per_query"])
    for query, values in expected["per_query"].items():
        assert got.per_query[query] == pytest.approx(values, abs=1e-9)


EVERY = [f"{name}@{depth}" for name in WITH_DEPTH for depth in (1, 3, 10, 1_000)] + list(WHOLE_LIST)


@given(records=lists_strategy, grades=grades_strategy, name=st.sampled_from(EVERY))
def test_every_measure_is_what_its_definition_says_word_for_word(records: list[str], grades: dict[str, int], name: str):
    wanted = measure(name)
    expected = PLAIN[wanted.kind](PlainList(records, grades), wanted.depth or len(records))
    assert wanted.of(judged_list(records, grades)) == pytest.approx(expected, abs=1e-12)


@given(
    rows=st.lists(
        st.tuples(
            st.sampled_from(["q1", "q2", "q3"]),
            st.text(st.characters(categories=["L", "N", "P", "S"]), min_size=1, max_size=3),
            st.sampled_from([3.0, 1.5, 1e-5, 0.0, -2.0]),
            st.none() | st.integers(0, 3),
        ),
        unique_by=lambda row: row[:2],
        max_size=30,
    ),
    mixed=st.randoms(use_true_random=False),
    between=st.sampled_from([" ", "\t", "  \t "]),
    end=st.sampled_from(["\n", "\r\n"]),
)
def test_files_in_any_order_with_any_blanks_give_lists_by_score_and_then_by_key(
    rows: list[tuple[str, str, float, int | None]], mixed: Random, between: str, end: str
):
    run = [between.join([query, "Q0", key, "1", repr(score), "tag"]) for query, key, score, _ in rows]
    known = [between.join([query, "0", key, str(grade)]) for query, key, _, grade in rows if grade is not None]
    for lines in (run, known):
        mixed.shuffle(lines)
    scores, grades = run_in(end.join(run), "run"), grades_in(end.join(known) + end, "grades")
    lists = {query: in_list_order(own) for query, own in scores.items()}
    for query, keys in lists.items():
        own = [(-score, key) for of, key, score, _ in rows if of == query]
        assert keys == [key for _, key in sorted(own)]
    got = measure_lists(lists, grades, [measure("ndcg@10"), measure("bpref")])
    assert set(got.per_query) == {query for query, _, _, grade in rows if grade is not None}
    for query, values in got.per_query.items():
        plain = PlainList(lists.get(query, []), grades[query])
        assert values == {
            "ndcg@10": pytest.approx(PLAIN["ndcg"](plain, 10)),
            "bpref": pytest.approx(PLAIN["bpref"](plain, 0)),
        }


def test_ndcg_by_hand():
    judged = judged_list(["x", "b", "a"], {"a": 3, "b": 1, "c": 2})
    gained = 1 / log2(3) + 7 / log2(4)
    ideal = 7 / log2(2) + 3 / log2(3) + 1 / log2(4)
    assert measure("ndcg@3").of(judged) == pytest.approx(gained / ideal)
    assert measure("ndcg@1").of(judged) == 0


@given(records=lists_strategy, grades=grades_strategy, name=st.sampled_from(QUALITY))
def test_a_measure_of_quality_is_between_0_and_1(records: list[str], grades: dict[str, int], name: str):
    assert 0 <= measure(name).of(judged_list(records, grades)) <= 1 + 1e-12


@given(records=lists_strategy, grades=grades_strategy, name=st.sampled_from(QUALITY))
def test_nothing_relevant_counts_0(records: list[str], grades: dict[str, int], name: str):
    assert measure(name).of(judged_list(records, dict.fromkeys(grades, 0))) == 0


@given(grades=grades_strategy.filter(lambda grades: any(grades.values())), depth=st.integers(1, 12))
def test_the_ideal_list_has_an_ndcg_of_1(grades: dict[str, int], depth: int):
    ideal = sorted(grades, key=lambda key: -grades[key])
    for name in (f"ndcg@{depth}", f"ndcg_lin@{depth}"):
        assert measure(name).of(judged_list(ideal, grades)) == pytest.approx(1)


@given(records=lists_strategy, grades=grades_strategy, at=st.integers(0, 14), name=st.sampled_from(QUALITY))
def test_moving_a_better_record_up_never_hurts(records: list[str], grades: dict[str, int], at: int, name: str):
    if at + 1 >= len(records):
        return
    swapped = list(records)
    swapped[at], swapped[at + 1] = records[at + 1], records[at]
    better = grades.get(records[at + 1], 0) >= grades.get(records[at], 0)
    # An unjudged record is neither good nor bad to bpref: only judged ones are compared.
    if better and records[at] in grades and records[at + 1] in grades:
        before, after = (measure(name).of(judged_list(keys, grades)) for keys in (records, swapped))
        assert after >= before - 1e-12


def test_a_judged_query_without_a_list_counts_and_an_unjudged_list_does_not():
    got = measure_lists({"a": ["x"], "z": ["x"]}, {"a": {"x": 1}, "b": {"x": 1}}, [measure("rr"), measure("judged@10")])
    assert got.per_query == {"a": {"rr": 1, "judged@10": 1}, "b": {"rr": 0, "judged@10": 0}}
    assert got.means == {"rr": 0.5, "judged@10": 0.5}


def test_a_grade_below_0_counts_as_0_and_is_judged_all_the_same():
    judged = judged_list(["a", "b"], {"a": -2, "b": 1})
    assert [measure(name).of(judged) for name in ("rr", "judged@2", "bpref")] == [0.5, 1, 0]


def test_equal_scores_stand_in_the_order_of_keys():
    assert in_list_order({"b": 1.0, "é": 1.0, "a": 1.0, "Z": 1.0, "c": 2.0}) == ["c", "Z", "a", "b", "é"]


@pytest.mark.parametrize(
    ("name", "message"),
    [
        ("ncdg@10", 'There is no measure "ncdg@10". Did you mean ndcg@k?'),
        ("ndcg", 'There is no measure "ndcg". Did you mean ndcg@k?'),
        ("ap@10", 'There is no measure "ap@10". Did you mean ap?'),
        ("rr@0", 'There is no measure "rr@0". Did you mean rr@k or rr?'),
    ],
)
def test_an_unknown_measure_names_the_nearest(name: str, message: str):
    with pytest.raises(UnknownMeasure) as caught:
        measure(name)
    assert str(caught.value) == message
