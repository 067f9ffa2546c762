"""Judging: pools hide the rankers, agreement is as published, grades are settled as the rule says."""

from collections import Counter
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.judging import (
    Expectation,
    ExpectationKind,
    GivenGrade,
    PoolItem,
    Settling,
    Unexpectable,
    agreement,
    draw_pool,
    drifts,
    expectation,
    instead_of,
    krippendorff_alpha,
    settled_grade,
    shared_out,
    weighted_kappa,
    widest_gap,
)

LISTS = [{"q": list("abcdef"), "r": list("ab")}, {"q": list("fexyz")}]
ALL = list("abcdefghijklmnopqrstuvwxyz")


def test_a_pool_is_the_first_of_every_ranker_without_what_is_judged():
    items = draw_pool(["q", "r"], LISTS, 3, 0, ALL, {"q": {"b", "f"}}, np.random.default_rng(1))
    assert {item.record for item in items if item.query == "q"} == {"a", "c", "e", "x"}
    assert {item.record for item in items if item.query == "r"} == {"a", "b"}
    assert len(items) == len(set(items))


def test_others_are_drawn_from_what_no_ranker_found():
    items = draw_pool(["q"], LISTS, 3, 5, ALL, {"q": {"m"}}, np.random.default_rng(1))
    drawn = {item.record for item in items} - set("abcfex")
    assert len(drawn) == 5
    assert "m" not in drawn
    assert len(draw_pool(["q"], LISTS, 3, 99, ALL, {}, np.random.default_rng(1))) == 26


def test_the_order_of_a_pool_tells_nothing_of_ranks():
    places = Counter(
        [item.record for item in draw_pool(["q"], LISTS, 4, 0, ALL, {}, np.random.default_rng(seed))].index("a")
        for seed in range(600)
    )
    # The best of the first ranker stands everywhere about as often: of 8 places each has 75, give or take.
    assert len(places) == 8
    assert all(45 < count < 125 for count in places.values())


@given(count=st.integers(1, 40), judges=st.integers(1, 4), twice=st.floats(0, 1), seed=st.integers(0, 100))
def test_everything_is_judged_once_and_a_share_by_a_second_judge(count: int, judges: int, twice: float, seed: int):
    items = [PoolItem(f"q{i % 7}", str(i)) for i in range(count)]
    names = [f"judge {i}" for i in range(judges)]
    given_out = shared_out(items, names, twice, np.random.default_rng(seed))
    times = Counter(item for own in given_out.values() for item in own)
    assert set(times) == set(items)
    assert sum(times.values()) - count == (round(twice * count) if judges > 1 else 0)
    assert max(times.values()) <= 2
    for own in given_out.values():
        assert own == [item for item in items if item in own]


# Four observers, twelve units: the example of K. Krippendorff, "Computing Krippendorff's Alpha-Reliability", 2011.
OBSERVED = [
    [1, 1, None, 1],
    [2, 2, 3, 2],
    [3, 3, 3, 3],
    [3, 3, 3, 3],
    [2, 2, 2, 2],
    [1, 2, 3, 4],
    [4, 4, 4, 4],
    [1, 1, 2, 1],
    [2, 2, 2, 2],
    [None, 5, 5, 5],
    [None, None, 1, 1],
    [None, None, 3, None],
]


def test_alpha_is_the_published_one():
    units = [[grade for grade in unit if grade is not None] for unit in OBSERVED]
    assert krippendorff_alpha(units, grades=6) == pytest.approx(0.815, abs=0.0005)


def plain_alpha(units: list[list[int]]) -> float:
    """Pair by pair: of the grades of one record, and of any two grades that were given to records judged twice."""
    shared = [unit for unit in units if len(unit) > 1]
    everything = [grade for unit in shared for grade in unit]
    counts = Counter(everything)

    def distance(one: int, other: int) -> float:
        low, high = sorted((one, other))
        return (sum(counts[g] for g in range(low, high + 1)) - (counts[low] + counts[high]) / 2) ** 2

    observed = sum(
        distance(one, other) / (len(unit) - 1) for unit in shared for one, other in permutations(unit, 2)
    ) / len(everything)
    by_chance = sum(distance(one, other) for one, other in permutations(everything, 2))
    return 1 - observed / (by_chance / (len(everything) * (len(everything) - 1)))


@given(units=st.lists(st.lists(st.integers(0, 3), max_size=4), max_size=8))
def test_alpha_compares_pairs_of_one_record_with_pairs_of_any(units: list[list[int]]):
    got = krippendorff_alpha(units)
    shared = [unit for unit in units if len(unit) > 1]
    if len({grade for unit in shared for grade in unit}) < 2:
        assert got is None
    else:
        assert got == pytest.approx(plain_alpha(units))


def plain_kappa(pairs: list[tuple[int, int]]) -> float:
    count = len(pairs)
    observed = sum((a - b) ** 2 for a, b in pairs) / count
    expected = sum((a - b) ** 2 for a, _ in pairs for _, b in pairs) / count**2
    return 1 - observed / expected


@given(pairs=st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3)), min_size=1))
def test_kappa_compares_what_is_seen_with_every_pairing_of_the_grades(pairs: list[tuple[int, int]]):
    got = weighted_kappa(pairs)
    if len({grade for pair in pairs for grade in pair}) == 1:
        assert got is None
    else:
        assert got == pytest.approx(plain_kappa(pairs))
        assert got is not None
        assert got <= 1


def test_judges_who_always_agree_are_at_1_and_those_who_guess_near_0():
    rng = np.random.default_rng(4)
    guesses = rng.integers(0, 4, (4_000, 3)).tolist()
    alpha = krippendorff_alpha(guesses)
    assert alpha == pytest.approx(0, abs=0.04)
    assert krippendorff_alpha([[g, g, g] for g in (0, 1, 2, 3)]) == 1
    assert krippendorff_alpha([[2], [3], []]) is None
    assert krippendorff_alpha([[2, 2], [2, 2]]) is None
    assert weighted_kappa([]) is None


def test_two_judges_are_told_by_kappa_and_more_by_alpha():
    units = [(0, 1), (3, 3), (2, 2), (1,)]
    assert agreement(units, 2) == weighted_kappa([(0, 1), (3, 3), (2, 2)])
    assert agreement(units, 3) == krippendorff_alpha([(0, 1), (3, 3), (2, 2)])


def test_a_judge_who_grades_higher_than_the_others_is_told_by_how_much():
    given_grades = {"a": {"Ada": 3, "Bo": 2, "Cy": 1}, "b": {"Ada": 2, "Bo": 2}, "c": {"Ada": 3}}
    assert drifts(given_grades.values()) == {
        "Ada": (pytest.approx(0.75), 2),
        "Bo": (pytest.approx(0), 2),
        "Cy": (pytest.approx(-1.5), 1),
    }
    assert [widest_gap(grades.values()) for grades in given_grades.values()] == [2, 0, 0]


@given(grades=st.lists(st.integers(0, 3), min_size=1, max_size=6), rule=st.sampled_from(Settling))
def test_what_judges_agree_on_counts_whatever_the_rule_and_their_order(grades: list[int], rule: Settling):
    given_grades = [GivenGrade(f"judge {i}", grade, float(i)) for i, grade in enumerate(grades)]
    count = settled_grade(given_grades, rule)
    if len(set(grades)) == 1:
        assert count == grades[0]
    elif rule is Settling.BY_HAND:
        assert count is None
    else:
        assert count in grades
    for mixed in list(permutations(given_grades))[:20]:
        assert settled_grade(mixed, rule) == count


def test_the_lower_of_two_middle_grades_counts():
    two = [GivenGrade("Ada", 1, 1.0), GivenGrade("Bo", 3, 2.0)]
    assert [settled_grade(two, rule) for rule in (Settling.MEDIAN, Settling.LATEST)] == [1, 3]
    assert settled_grade([], Settling.MEDIAN) is None


@pytest.mark.parametrize(
    ("wanted", "instead"),
    [
        (expectation("among_first", "a", 1), None),
        (expectation("among_first", "b", 1), "it stands at 2"),
        (expectation("among_first", "z", 3), "it is not among the first 3 found"),
        (expectation("never", "z"), None),
        (expectation("never", "c"), "it stands at 3"),
        (expectation("more_than", number=1_233), None),
        (expectation("more_than", number=1_234), "1,234 are found"),
        (expectation("nothing"), "1,234 are found"),
    ],
    ids=str,
)
def test_an_expectation_holds_or_says_what_is_instead(wanted: Expectation, instead: str | None):
    assert instead_of(wanted, ["a", "b", "c"], 1_234) == instead


def test_an_empty_list_holds_what_expects_nothing():
    assert instead_of(expectation("nothing"), [], 0) is None
    assert instead_of(expectation("never", "a"), [], 0) is None
    assert instead_of(expectation("among_first", "a", 3), [], 0) == "nothing is found"
    assert instead_of(expectation("nothing"), ["a"], 1) == "1 is found"


@pytest.mark.parametrize(
    ("kind", "record", "number", "message"),
    [
        ("among_first", None, 3, "This expectation is about a record: say its key."),
        ("never", "", None, "This expectation is about a record: say its key."),
        ("among_first", "r0", None, "Say among how many first records it is to stand: 1 or more."),
        ("among_first", "r0", 0, "Say among how many first records it is to stand: 1 or more."),
        ("more_than", None, None, "Say more than how many records are to be found."),
    ],
)
def test_an_expectation_says_what_it_lacks(kind: ExpectationKind, record: str | None, number: int | None, message: str):
    with pytest.raises(Unexpectable) as caught:
        expectation(kind, record, number)
    assert str(caught.value) == message


def test_an_expectation_keeps_only_what_its_kind_asks_for():
    assert expectation("nothing", "r0", 3, "n") == Expectation("nothing", None, None, "n")
    assert [str(expectation(kind, "r0", 3)) for kind in ("among_first", "never", "more_than", "nothing")] == [
        "r0 among the first 3",
        "never r0",
        "more than 3 records",
        "nothing at all",
    ]
