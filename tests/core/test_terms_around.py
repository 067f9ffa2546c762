"""The terms around a word: within two edits or a fifth alike, of living records, the nearest first."""

import numpy as np
import pytest

from pale_harbor.core.index import build_index
from pale_harbor.core.index.similar_terms import trigram_similarity
from pale_harbor.core.ranking.around import LEAST_SIMILAR, terms_around
from pale_harbor.core.text import chain_of

WORDS = chain_of("words")


def around(term: str, texts: list[str]) -> list[tuple[str, int | None, int]]:
    index = build_index([[text] for text in texts], WORDS)
    return [(one.text, one.edits, one.agreeing) for one in terms_around(term, [index], [None])]


def test_two_edits_are_near_and_three_are_not():
    # None of them shares a trigram with the word.
    assert around("abcd", ["xbcx", "xbxx"]) == [("xbcx", 2, 0)]


@pytest.mark.parametrize(("other", "near"), [("abcklmnopqrs", True), ("abcklmnopqrst", False)])
def test_a_fifth_alike_is_near_whatever_the_edits(other: str, near: bool):
    # 2 shared of 8 and 12 trigrams is a fifth; of 8 and 13 it is less.
    assert (trigram_similarity("abcdefgh", other) >= LEAST_SIMILAR) is near
    assert around("abcdefgh", [other]) == ([(other, None, 3)] if near else [])


def test_the_word_itself_is_not_around_it_and_the_nearest_come_first():
    assert around("harpon", ["harpon", "harbor", "harpoons", "harpoon"]) == [
        ("harpoon", 1, 5),
        ("harpoons", 2, 5),
        ("harbor", 2, 3),
    ]


def test_records_are_counted_over_slabs_and_only_where_they_live():
    first, second = build_index([["harpoon"], ["harpoon"]], WORDS), build_index([["harpoon"], ["harpun"]], WORDS)
    found = terms_around("harpon", [first, second], [None, np.array([True, False])])
    assert [(one.text, one.holding) for one in found] == [("harpoon", 3)]
