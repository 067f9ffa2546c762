"""Signals by hand, rules by what they do, and demands by their plain reading."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.fields import OneOf, Within
from pale_harbor.core.ranking import Need, Shape, Signal, apply_rules, basis_of, in_force, signal_values
from pale_harbor.core.ranking.demands import is_met, keeps, live_demand, program_of
from pale_harbor.core.ranking.plan import AtLeast, Demand, Each, Holds, No, One
from pale_harbor.core.ranking.rules import (
    Always,
    FilterBy,
    Hide,
    Holding,
    Lift,
    ListedWords,
    LookIn,
    Matching,
    Pin,
    Rule,
    Saying,
    Weigh,
)
from pale_harbor.core.ranking.signals import SignalHow, with_signals
from pale_harbor.core.text.patterns import safe_pattern
from pale_harbor.core.text.place import place_of
from pale_harbor.core.text.word_lists import WordSet
from tests.strategies import needs

NAN = float("nan")


@pytest.mark.parametrize(
    ("signal", "values"),
    [
        (Signal(field="asked", shape=Shape.VALUE), [0.0, 10.0, 30.0, 0.0]),
        (Signal(field="asked", shape=Shape.LOG, scale=10), [0.0, np.log(2), np.log(4), 0.0]),
        (Signal(field="asked", shape=Shape.SATURATION, scale=10), [0.0, 0.5, 0.75, 0.0]),
        (Signal(field="asked", shape=Shape.RANK), [0.0, 1 / 3, 2 / 3, 0.0]),
        (Signal(field="asked", shape=Shape.FLAG), [0.0, 1.0, 1.0, 0.0]),
        (Signal(field="asked", shape=Shape.HALF_LIFE, scale=10), [1 / 8, 1 / 4, 1.0, 0.0]),
        (Signal(field="asked", shape=Shape.HALF_LIFE, scale=10, now=40.0), [1 / 16, 1 / 8, 1 / 2, 0.0]),
        # What lies ahead of now is as fresh as can be.
        (Signal(field="asked", shape=Shape.HALF_LIFE, scale=10, now=10.0), [1 / 2, 1.0, 1.0, 0.0]),
        (Signal(field="asked", shape=Shape.LINEAR, scale=40), [1 / 4, 1 / 2, 1.0, 0.0]),
        (Signal(field="asked", shape=Shape.LINEAR, scale=20, without=0.4), [0.0, 0.0, 1.0, 0.4]),
        (Signal(field="asked", shape=Shape.BELL, scale=20), [2**-2.25, 1 / 2, 1.0, 0.0]),
    ],
)
def test_each_shape_by_hand(signal: Signal, values: list[float]):
    numbers = np.array([0.0, 10.0, 30.0, NAN])
    assert signal_values(signal, numbers, basis_of([numbers])).tolist() == pytest.approx(values)


@given(
    numbers=st.lists(st.floats(0, 1e6), min_size=2, max_size=20),
    shape=st.sampled_from(Shape),
    scale=st.sampled_from([0.1, 1.0, 1e4]),
)
def test_more_is_never_worth_less(numbers: list[float], shape: Shape, scale: float):
    ordered = np.sort(np.array(numbers))
    found = signal_values(Signal(field="asked", shape=shape, scale=scale), ordered, basis_of([ordered]))
    assert (np.diff(found) >= -1e-12).all()


def test_added_signals_come_before_those_that_multiply():
    one, two = (
        Signal(field="a", shape=Shape.VALUE, weight=2.0),
        Signal(field="b", shape=Shape.VALUE, weight=0.5, how=SignalHow.MULTIPLY),
    )
    scores = with_signals(np.array([1.0, 0.0]), [(two, np.array([4.0, 0.0])), (one, np.array([3.0, 1.0]))])
    assert scores.tolist() == [(1 + 2 * 3) * (1 + 0.5 * 4), 2.0]


CODE = Matching(safe_pattern(r"SMC-\d+-\d+", place_of("", 0, 0)))
YEAR = Matching(safe_pattern(r"\b1[89]\d\d\b", place_of("", 0, 0)))


def test_a_rule_of_a_query_pins_lifts_and_hides():
    rules = (
        Rule(when=Saying("fog  Bell"), do=Pin(("a", "b", "a"))),
        Rule(when=Saying("fog bell"), do=Lift(("c",), 2.0)),
        Rule(when=Always(), do=Hide(("d",))),
        Rule(when=Saying("other"), do=Pin(("x",))),
        Rule(when=Always(), do=Hide(("y",)), on=False),
    )
    query = apply_rules("Fog bell ", rules)
    assert query.pinned == ("a", "b")
    assert query.lifts == (("c", 2.0),)
    assert query.hidden == {"d"}
    assert query.applied == (0, 1, 2)
    assert query.text == "Fog bell "


def test_a_part_of_a_query_becomes_a_filter_a_field_or_a_weight():
    words = Holding(ListedWords("places", WordSet(frozenset(["Cold Haven", "Cold"]))))
    assert apply_rules("lamps 1890 north", (Rule(when=YEAR, do=FilterBy("year")),)).text == "lamps north"
    # What holds for every query takes the whole of it.
    always = apply_rules("Saltmere", (Rule(when=Always(), do=FilterBy("place")),))
    assert (always.text, always.filters) == ("", (OneOf("place", ("Saltmere",), any_case=True),))
    assert apply_rules("lamps 1890", (Rule(when=YEAR, do=FilterBy("year", 5.0)),)).filters == (
        Within("year", "1885.0", "1895.0"),
    )
    # The longest entry of a list that is found, whatever its case.
    of_list = apply_rules("lamps of cold haven", (Rule(when=words, do=FilterBy("place")),))
    assert (of_list.text, of_list.filters) == ("lamps of", (OneOf("place", ("cold haven",), any_case=True),))
    # Typed as it stands, zeros in front and many digits included.
    number = Matching(safe_pattern(r"\d+", place_of("", 0, 0)))
    assert apply_rules("0012345678", (Rule(when=number, do=FilterBy("code")),)).filters == (
        OneOf("code", ("0012345678",), any_case=True),
    )
    assert apply_rules("12345678", (Rule(when=number, do=FilterBy("n", 1.0)),)).filters == (
        Within("n", "12345677.0", "12345679.0"),
    )
    of_code = apply_rules("see SMC-1907-41 now", (Rule(when=CODE, do=LookIn("old code")),))
    assert (of_code.text, of_code.looked_for) == ("see now", (("old code", "SMC-1907-41"),))
    assert apply_rules("SMC-1-2", (Rule(when=CODE, do=Weigh("title", 0.0)),)).weights == (("title", 0.0),)
    assert (
        apply_rules("lamps", (Rule(when=CODE, do=Weigh("title", 0.0)), Rule(when=YEAR, do=FilterBy("year")))).applied
        == ()
    )


def test_a_rule_that_takes_too_long_is_passed_over(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.core.text.patterns.SECONDS_ALLOWED", 0.01)
    slow = Matching(safe_pattern("(a|a)*$", place_of("", 0, 0)))
    query = apply_rules("a" * 40 + "b", (Rule(when=slow, do=Hide(("x",))), Rule(when=Always(), do=Pin(("y",)))))
    assert (query.slow, query.applied, query.hidden) == ((0,), (1,), frozenset())


def test_a_rule_holds_through_its_last_day():
    rule = Rule(when=Always(), do=Pin(("a",)), until=100.0)
    assert [in_force([rule], today)[0].on for today in (99.0, 100.0, 101.0)] == [True, True, False]
    assert not in_force([Rule(when=Always(), do=Pin(("a",)), on=False)], 0.0)[0].on


demands = st.recursive(
    st.builds(Holds, st.integers(0, 61)),
    lambda inner: st.one_of(
        st.builds(No, inner),
        *(st.lists(inner, max_size=4).map(tuple).map(kind) for kind in (AtLeast, Each, One)),
    ),
    max_leaves=12,
)


@given(demand=demands, need=needs(), held=st.lists(st.integers(0, 2**62 - 1), max_size=6))
def test_a_program_decides_as_the_demand_reads(demand: Demand, need: Need, held: list[int]):
    found = keeps(program_of(demand, need), np.array(held, np.int64))
    assert found.tolist() == [is_met(demand, bits, need) for bits in held]


@given(demand=demands, need=needs(), live=st.integers(0, 2**62 - 1), held=st.integers(0, 2**62 - 1))
def test_words_that_nobody_looks_for_decide_nothing(demand: Demand, need: Need, live: int, held: int):
    left = live_demand(demand, live)
    if left is not None:
        assert is_met(left, held & live, need) == is_met(left, held, need)


@pytest.mark.parametrize(
    ("need", "counts"),
    [
        (Need(), [1, 1, 1, 1]),
        (Need(((1, None),)), [1, 2, 3, 10]),
        (Need(((1, 2),)), [1, 2, 2, 2]),
        (Need(((1, 0.75),)), [1, 2, 3, 8]),
        (Need(((1, 0.7),)), [1, 2, 3, 7]),
        (Need(((1, None), (3, 2))), [1, 2, 2, 2]),
        (Need(((2, None),)), [1, 2, 3, 10]),
    ],
)
def test_how_many_words_are_needed(need: Need, counts: list[int]):
    assert [need.of(words) for words in (1, 2, 3, 10)] == counts
