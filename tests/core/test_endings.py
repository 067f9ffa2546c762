"""Endings: the longest that a word has, however short the word."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.text.stemmers.endings import Endings, by_kind, endings
from pale_harbor.core.text.stemmers.regions import without_one_of


@given(those=st.lists(st.text("abc", min_size=1, max_size=4), min_size=1, max_size=8), word=st.text("abc", max_size=6))
def test_what_a_word_ends_in_is_found_as_by_trying_each(those: list[str], word: str):
    tried = endings(*those)
    plain = sorted({one for one in those if word.endswith(one)}, key=len, reverse=True)
    assert tried.all_of(word) == plain
    assert tried.longest(word) == (plain[0] if plain else "")


@pytest.mark.parametrize(
    ("word", "longest"), [("berries", "ies"), ("boxes", "es"), ("es", "es"), ("s", ""), ("", ""), ("boxed", "")]
)
def test_a_word_may_be_an_ending_and_shorter_than_all(word: str, longest: str):
    assert Endings({"ies": "y", "es": "", "ness": ""}).longest(word) == longest


def test_of_an_ending_of_two_kinds_the_later_one_counts():
    assert dict(by_kind({"after a": ["em", "n"], "anywhere": ["n"]})) == {"em": "after a", "n": "anywhere"}


@pytest.mark.parametrize(("region", "left"), [(2, "harb"), (4, "harb"), (5, "harbor")])
def test_an_ending_is_cut_only_in_its_region(region: int, left: str):
    assert without_one_of("harbor", ("ar", "or"), region) == left
