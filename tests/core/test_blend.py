"""Blends: one list from several, as a plain reading of the formulas gives it, ties included."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.blend import (
    Listed,
    Normalisation,
    filled_up,
    reciprocal_rank_fusion,
    reorder,
    weighted_sum,
)

RECORDS = 12
ORDER = np.array([7, 3, 11, 0, 5, 9, 1, 10, 2, 8, 4, 6], np.int32)


@st.composite
def lists(draw: st.DrawFn) -> Listed:
    ids = draw(st.lists(st.integers(0, RECORDS - 1), unique=True, max_size=RECORDS))
    # Few different scores, so that many are equal.
    scores = sorted(draw(st.lists(st.sampled_from([-1.0, 0.0, 0.5, 2.0]), min_size=len(ids), max_size=len(ids))))
    return Listed(np.array(ids, np.int32), np.array(scores[::-1], np.float64))


weights = st.lists(st.sampled_from([0.0, 0.5, 1.0, 3.0]), min_size=3, max_size=3)


@given(some=st.lists(lists(), min_size=3, max_size=3), weights=weights, k=st.sampled_from([0.0, 1.0, 60.0]))
def test_reciprocal_rank_fusion_is_its_formula(some: list[Listed], weights: list[float], k: float):
    found = reciprocal_rank_fusion(some, weights, ORDER, k)
    # In whole numbers and their ratios, so that what is equal is equal.
    expected: dict[int, Fraction] = {}
    for one, weight in zip(some, weights, strict=True):
        for rank, record in enumerate(one.record_ids.tolist(), start=1):
            expected[record] = expected.get(record, Fraction(0)) + Fraction(weight) / (Fraction(k) + rank)
    assert found.record_ids.tolist() == sorted(expected, key=lambda record: (-expected[record], ORDER[record]))
    exact = [float(expected[record]) for record in found.record_ids.tolist()]
    assert found.scores.tolist() == pytest.approx(exact)
    for row, record in enumerate(found.record_ids.tolist()):
        assert [0 if record not in one.record_ids else one.record_ids.tolist().index(record) + 1 for one in some] == (
            found.ranks[row].tolist()
        )


@given(some=st.lists(lists(), min_size=3, max_size=3), weights=weights, how=st.sampled_from(Normalisation))
def test_a_weighted_sum_is_its_formula(some: list[Listed], weights: list[float], how: Normalisation):
    found = weighted_sum(some, weights, how, ORDER)
    expected: dict[int, float] = {}
    for one, weight in zip(some, weights, strict=True):
        scores = one.scores.tolist()
        for rank, (record, score) in enumerate(zip(one.record_ids.tolist(), scores, strict=True), start=1):
            match how:
                case Normalisation.NONE:
                    own = score
                case Normalisation.RANK:
                    own = 1 - (rank - 1) / len(scores)
                case Normalisation.MIN_MAX:
                    reach = max(scores) - min(scores)
                    own = (score - min(scores)) / reach if reach else 1.0
                case Normalisation.Z_SCORE:
                    mean = sum(scores) / len(scores)
                    spread = (sum((other - mean) ** 2 for other in scores) / len(scores)) ** 0.5
                    own = (score - mean) / spread if spread else 0.0
            expected[record] = expected.get(record, 0.0) + weight * own
    in_order = sorted(expected, key=lambda record: (-round(expected[record], 9), ORDER[record]))
    assert found.record_ids.tolist() == in_order
    assert found.scores.tolist() == pytest.approx([expected[r] for r in found.record_ids.tolist()], abs=1e-9)


@given(some=st.lists(lists(), min_size=2, max_size=2), depth=st.integers(0, RECORDS))
def test_parts_come_to_the_score_in_every_way(some: list[Listed], depth: int):
    ways = [
        reciprocal_rank_fusion(some, [1.0, 2.0], ORDER),
        weighted_sum(some, [1.0, 2.0], Normalisation.Z_SCORE, ORDER),
        filled_up(some[0], some[1]),
        reorder(some[0], some[1], depth),
    ]
    for found in ways:
        total = np.zeros(found.record_ids.size)
        for number in range(2):
            total += found.parts[:, number]
        assert total.tolist() == found.scores.tolist()
        assert len(set(found.record_ids.tolist())) == found.record_ids.size


@given(first=lists(), second=lists(), depth=st.integers(0, RECORDS))
def test_the_keyword_list_is_filled_up_or_reordered(first: Listed, second: Listed, depth: int):
    own, other = first.record_ids.tolist(), second.record_ids.tolist()
    assert filled_up(first, second).record_ids.tolist() == own + [record for record in other if record not in own]
    head = [record for record in other if record in own[:depth]]
    expected = head + [record for record in own[:depth] if record not in head] + own[depth:]
    assert reorder(first, second, depth).record_ids.tolist() == expected


def test_fusion_by_hand():
    words = Listed(np.array([4, 2, 7], np.int32), np.array([9.0, 5.0, 1.0]))
    meaning = Listed(np.array([2, 9], np.int32), np.array([0.8, 0.6]))
    found = reciprocal_rank_fusion([words, meaning], [1.0, 1.0], np.arange(RECORDS, dtype=np.int32))
    assert found.record_ids.tolist() == [2, 4, 9, 7]
    assert found.scores.tolist() == [1 / 62 + 1 / 61, 1 / 61, 1 / 62, 1 / 63]
    assert found.ranks.tolist() == [[2, 1], [1, 0], [0, 2], [3, 0]]
