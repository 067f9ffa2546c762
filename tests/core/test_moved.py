"""What moved in one query's list, each decision by hand."""

from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.comparing.moved import MOST_MOVED, Moved, list_moved

lists = st.lists(st.sampled_from("abcdefgh"), unique=True)


def test_at_the_depth_a_record_is_in_and_one_below_it_is_out():
    moved = list_moved(["a", "b", "c"], ["a", "c", "b"], {}, 2)
    assert [one.key for one in moved.came] == ["c"]
    assert [one.key for one in moved.went] == ["b"]
    assert moved.went[0] == Moved("b", None, 2, 3)


def test_the_best_grades_come_first_unjudged_ones_last_and_equals_by_rank():
    moved = list_moved([], ["a", "b", "c", "d", "e"], {"b": 0, "c": 3, "e": 3}, 5)
    assert [one.key for one in moved.came] == ["c", "e", "b", "a", "d"]


def test_of_those_that_stayed_only_judged_ones_at_another_rank_are_told_the_farthest_first():
    before, after = ["a", "b", "c", "d", "e"], ["d", "b", "a", "c", "e"]
    moved = list_moved(before, after, {"a": 1, "b": 1, "c": 2, "d": 0, "e": 3}, 5)
    assert [(one.key, one.before, one.after) for one in moved.reordered] == [("d", 4, 1), ("a", 1, 3), ("c", 3, 4)]
    assert list_moved(before, after, {}, 5).reordered == ()


def test_so_many_are_told_and_no_more():
    before, after = [f"a{i}" for i in range(MOST_MOVED + 1)], [f"b{i}" for i in range(MOST_MOVED + 1)]
    moved = list_moved(before, after, {}, 50)
    assert (len(moved.came), len(moved.went)) == (MOST_MOVED, MOST_MOVED)


@given(lists, lists, st.integers(1, 9))
def test_as_many_come_as_go_where_both_lists_are_as_long(before: list[str], after: list[str], depth: int):
    moved = list_moved(before, after, {}, depth)
    assert len(moved.came) - len(moved.went) == len(after[:depth]) - len(before[:depth])
    assert not {one.key for one in moved.came} & {one.key for one in moved.went}
