"""A ranker's blend: whichever way, as a plain reading of what the document says; and which query gets which."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.blend import (
    Blend,
    BlendHow,
    Listed,
    Normalisation,
    Queries,
    QueryKind,
    blend_lists,
    filled_up,
    kind_of,
    reorder,
    second_stage_order,
)
from pale_harbor.core.blend.blending import shares_of_meaning
from pale_harbor.core.text.patterns import safe_pattern
from pale_harbor.core.text.place import Place
from tests.core.test_blend import ORDER, RECORDS, lists

two = st.lists(lists(), min_size=2, max_size=2)


@given(
    words=lists(),
    spaces=two,
    meaning=st.sampled_from([0.0, 0.3, 0.5, 1.0]),
    weights=st.sampled_from([[1.0, 1.0], [3.0, 1.0]]),
    how=st.sampled_from([BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM]),
)
def test_meaning_is_dealt_out_among_the_spaces(
    words: Listed, spaces: list[Listed], meaning: float, weights: list[float], how: BlendHow
):
    blend = Blend(how=how, meaning=meaning, normalise=Normalisation.RANK)
    found = blend_lists(blend, words, spaces, weights, ORDER)
    shares = [1 - meaning, *(meaning * weight / sum(weights) for weight in weights)]
    expected: dict[int, float] = {}
    for one, share in zip([words, *spaces], shares, strict=True):
        if not share:
            continue
        for place, record in enumerate(one.record_ids.tolist()):
            own = 1 / (60 + place + 1) if how is BlendHow.RECIPROCAL_RANK else 1 - place / one.record_ids.size
            expected[record] = expected.get(record, 0.0) + share * own
    assert dict(zip(found.record_ids.tolist(), found.scores.tolist(), strict=True)) == pytest.approx(expected)
    assert found.parts.sum(axis=1).tolist() == pytest.approx(found.scores.tolist())
    in_order = [(round(-score, 9), ORDER[record]) for record, score in zip(found.record_ids, found.scores, strict=True)]
    assert [score for score, _ in in_order] == sorted(score for score, _ in in_order)


@given(words=lists(), spaces=two)
def test_at_either_end_one_side_is_alone(words: Listed, spaces: list[Listed]):
    by_words = blend_lists(Blend(meaning=0), words, spaces, [1.0, 1.0], ORDER)
    assert by_words.record_ids.tolist() == words.record_ids.tolist()
    by_meaning = blend_lists(Blend(meaning=1), words, spaces[:1], [1.0], ORDER)
    assert by_meaning.record_ids.tolist() == spaces[0].record_ids.tolist()


@given(words=lists(), spaces=two, depth=st.integers(1, RECORDS))
def test_one_space_fills_up_or_reorders_as_it_stands(words: Listed, spaces: list[Listed], depth: int):
    filled = blend_lists(Blend(how=BlendHow.FILL_UP), words, spaces[:1], [1.0], ORDER)
    assert filled.record_ids.tolist() == filled_up(words, spaces[0]).record_ids.tolist()
    again = blend_lists(Blend(how=BlendHow.REORDER, depth=depth), words, spaces[:1], [1.0], ORDER)
    assert again.record_ids.tolist() == reorder(words, spaces[0], depth).record_ids.tolist()
    assert again.ranks.shape == (again.record_ids.size, 2)


@given(words=lists(), spaces=two)
def test_two_spaces_fill_up_with_one_voice_and_keep_their_ranks(words: Listed, spaces: list[Listed]):
    found = blend_lists(Blend(how=BlendHow.FILL_UP), words, spaces, [1.0, 1.0], ORDER)
    for row, record in enumerate(found.record_ids.tolist()):
        held = [one.record_ids.tolist() for one in [words, *spaces]]
        assert found.ranks[row].tolist() == [own.index(record) + 1 if record in own else 0 for own in held]


def test_weights_of_spaces_share_what_meaning_has():
    assert shares_of_meaning(0.6, [2.0, 1.0]) == pytest.approx([0.4, 0.2])
    assert shares_of_meaning(0.6, []) == []


def test_the_second_stage_by_hand():
    # Places 1, 2/3, 1/3; half of each.
    found = second_stage_order([0.0, 0.9, 0.2], 0.5)
    assert found.scores.tolist() == pytest.approx([0.5, 1 / 3 + 0.45, 1 / 6 + 0.1])
    assert found.order.tolist() == [1, 0, 2]
    assert second_stage_order([0.5, 0.5, 0.5], 1.0).order.tolist() == [0, 1, 2]
    assert second_stage_order([], 0.5).order.tolist() == []


CODE = QueryKind("code", Queries(pattern=safe_pattern(r"^[A-Z]+-\d+$", Place(1, 1, 1))), Blend(meaning=0))
QUESTION = QueryKind("question", Queries(at_least_words=4), Blend(meaning=0.8))
NAME = QueryKind("name", Queries(at_least_words=1, at_most_words=2, quoted=True), Blend())


@pytest.mark.parametrize(
    ("text", "words", "quoted", "kind"),
    [
        ("SMC-1907", 1, False, CODE),
        ("what did sailors eat", 4, False, QUESTION),
        ('"fog bell"', 2, True, NAME),
        ("fog bell", 2, False, None),
    ],
)
def test_the_first_kind_that_fits_counts(text: str, words: int, quoted: bool, kind: QueryKind | None):
    assert kind_of(text, words, quoted, [CODE, QUESTION, NAME]) == (kind, [])


def test_a_kind_whose_pattern_takes_too_long_is_passed_over():
    endless = QueryKind("endless", Queries(pattern=safe_pattern(r"(a|a)*$", Place(1, 1, 1))), Blend())
    found, slow = kind_of("a" * 60 + "b", 1, False, [endless, QueryKind("any", Queries(at_least_words=0), Blend())])
    assert (found.name if found else None, slow) == ("any", ["endless"])


def test_lists_that_hold_nothing_blend_to_nothing():
    empty = Listed(np.zeros(0, np.int32), np.zeros(0))
    for how in (BlendHow.RECIPROCAL_RANK, BlendHow.WEIGHTED_SUM, BlendHow.FILL_UP, BlendHow.REORDER):
        assert blend_lists(Blend(how=how), empty, [empty], [1.0], ORDER).record_ids.size == 0
