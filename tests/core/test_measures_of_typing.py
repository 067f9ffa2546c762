"""Letters and keystrokes saved: by hand, as they are defined, and what unjudged records leave open."""

from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.comparing import deciding_records
from pale_harbor.core.measures import (
    USUAL_RULES,
    Band,
    MeasureRules,
    TypedKeys,
    Unjudged,
    band,
    judged_list,
    measure,
    measure_judged,
    measure_lists,
    value_of,
)
from pale_harbor.core.measures.letters import NotTyped

LETTERS, KEYSTROKES = measure("letters_saved@3"), measure("keystrokes_saved@3")
NAMES = [f"{kind}@{depth}" for kind in ("letters_saved", "keystrokes_saved") for depth in (1, 2, 10)]

lists_of_letters = st.lists(st.lists(st.sampled_from("abcdxyz"), unique=True, max_size=5), min_size=1, max_size=6)
some_grades = st.dictionaries(st.sampled_from("abcd"), st.integers(0, 3), max_size=4)


def typed(*lists: str, letters: int | None = None) -> TypedKeys:
    """One list for each letter, of records of one letter each."""
    return TypedKeys(tuple(tuple(keys) for keys in lists), letters or len(lists))


def test_letters_saved_is_the_share_that_nobody_has_to_type():
    def saved(*lists: str) -> float:
        return LETTERS.of(judged_list((), {"a": 1}, typed(*lists)))

    assert saved("a", "x", "x", "x") == 1
    assert saved("xyz", "xya", "x", "x") == 0.75
    # It stands fourth, beyond the first three, until the last letter.
    assert saved("xyza", "xyza", "xyza", "a") == 0.25
    assert saved("x", "x", "x", "x") == 0


def test_keystrokes_saved_counts_the_steps_down_the_list_too():
    def saved(*lists: str) -> float:
        return KEYSTROKES.of(judged_list((), {"a": 1}, typed(*lists)))

    # Four letters and three steps at most: 8 less what it takes, of 6 that can be saved.
    assert saved("a", "x", "x", "x") == pytest.approx((8 - 2) / 6)
    # One letter and three steps down are no better than three letters and one.
    assert saved("xya", "xyz", "a", "a") == pytest.approx((8 - 4) / 6)
    assert saved("xyza", "x", "x", "x") == 0


def test_of_a_query_without_letters_nothing_is_saved():
    nothing = judged_list((), {"a": 1}, TypedKeys((), 0))
    assert (LETTERS.of(nothing), KEYSTROKES.of(nothing)) == (0, 0)
    assert LETTERS.unjudged_share(nothing) == 0


@given(lists=lists_of_letters, grades=some_grades, name=st.sampled_from(NAMES))
def test_they_are_what_their_definitions_say(lists: list[list[str]], grades: dict[str, int], name: str):
    wanted = measure(name)
    depth = wanted.depth or 0
    count = len(lists)
    ways = [
        (letter, rank)
        for letter, keys in enumerate(lists, 1)
        for rank, key in enumerate(keys[:depth], 1)
        if grades.get(key, 0) > 0
    ]
    if wanted.kind == "letters_saved":
        expected = (count + 1 - min((letter for letter, _ in ways), default=count + 1)) / count
    else:
        typed_and_down = min((letter + rank for letter, rank in ways), default=count + depth + 1)
        expected = (count + depth + 1 - typed_and_down) / (count + depth - 1)
    own = judged_list((), grades, typed(*("".join(keys) for keys in lists)))
    assert wanted.of(own) == pytest.approx(expected)


@given(lists=lists_of_letters, grades=some_grades, name=st.sampled_from(NAMES))
def test_once_a_relevant_record_stands_first_no_letter_more_changes_anything(
    lists: list[list[str]], grades: dict[str, int], name: str
):
    stops = [i for i, keys in enumerate(lists, 1) if keys and grades.get(keys[0], 0) > 0]
    whole = typed(*("".join(keys) for keys in lists))
    ended = TypedKeys(whole.lists[: stops[0]] if stops else whole.lists, whole.letters)
    both = [judged_list((), grades, one) for one in (whole, ended)]
    assert measure(name).of(both[0]) == measure(name).of(both[1])
    assert band(measure(name), both[0]) == band(measure(name), both[1])


@given(lists=lists_of_letters, grades=some_grades, name=st.sampled_from(NAMES))
def test_a_band_holds_whatever_the_unjudged_turn_out_to_be_and_reaches_both_ends(
    lists: list[list[str]], grades: dict[str, int], name: str
):
    own = typed(*("".join(keys) for keys in lists))
    unjudged = sorted({key for keys in lists for key in keys} - grades.keys())
    values = [
        measure(name).of(judged_list((), grades | dict(zip(unjudged, once, strict=True)), own))
        for once in product((0, 1), repeat=len(unjudged))
    ]
    assert band(measure(name), judged_list((), grades, own)) == Band(min(values), max(values))


def test_how_much_is_unjudged_is_told_of_the_lists_on_the_way():
    own = judged_list(["x", "y"], {"a": 1}, typed("xa", "axyz"))
    # Of x, a and a, x, y: the fourth is beyond the first three.
    assert LETTERS.unjudged_share(own) == pytest.approx(3 / 5)
    assert measure("ndcg@3").unjudged_share(own) == 1


def test_unjudged_records_left_out_let_the_others_move_up():
    own = judged_list((), {"a": 1}, typed("xyza", "xyza"))
    assert value_of(LETTERS, own, MeasureRules()) == 0
    assert value_of(LETTERS, own, MeasureRules(unjudged=Unjudged.LEFT_OUT)) == 1


def test_lists_of_the_same_end_and_another_way_are_told_apart():
    ways = [judged_list(["a"], {"a": 1}, one).name for one in (None, typed("x", "a"), typed("a", "a"), typed("xa"))]
    assert len(set(ways)) == 4
    assert judged_list(["a"], {"a": 1}, typed("y", "a")).name == ways[1]


def test_lists_of_whole_queries_have_no_letters():
    with pytest.raises(NotTyped, match="choose another measure"):
        measure_lists({"q": ["a"]}, {"q": {"a": 1}}, [LETTERS])
    both = measure_judged({"q": judged_list(["a"], {"a": 1}, typed("a"))}, [LETTERS, measure("rr")])
    assert both.means == {"letters_saved@3": 1, "rr": 1}


def test_records_met_on_the_way_decide_a_comparison_of_letters():
    # First finds a with its second letter, second with its third; y would be found by second at once.
    ways = ({"q": typed("x", "a", "a")}, {"q": typed("y", "x", "a")})
    found = deciding_records(LETTERS, USUAL_RULES, {"q": ["a"]}, {"q": ["a"]}, {"q": {"a": 1, "x": 0}}, typed=ways)
    assert [(one.record, one.ranks) for one in found.open] == [("y", (0, 0))]
    # The second side from one third saved to all.
    assert found.open[0].swing == pytest.approx(2 / 3)
    assert found.enough == 1
