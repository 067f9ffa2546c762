"""Vectors in groups: what is found is told exactly, a filter is kept exactly, and only far groups are left out."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from pale_harbor.core.vectors import (
    Groups,
    Similarity,
    VectorTable,
    grouped,
    groups_for,
    nearest,
    nearest_in_groups,
    regrouped,
    similarity_of_records,
    vector_table,
)

WAYS = list(Similarity)


def made(count: int, seed: int = 7, dimensions: int = 8, heaps: int = 12, each: int = 1) -> VectorTable:
    """So many records around some places, each with so many vectors."""
    rng = np.random.default_rng(seed)
    middles = rng.normal(size=(heaps, dimensions))
    vectors = middles[rng.integers(heaps, size=count * each)] + rng.normal(scale=0.2, size=(count * each, dimensions))
    owners = np.repeat(np.arange(count), each).tolist()
    return vector_table(count, dimensions, owners, [vectors.astype(np.float32)], [(0, 0, 0, 0)] * (count * each))


def wanted(seed: int = 3, dimensions: int = 8) -> NDArray[np.float32]:
    return np.random.default_rng(seed).normal(size=dimensions).astype(np.float32)


def found(table: VectorTable, groups: Groups, share: float, way: Similarity = Similarity.COSINE, **also: Any) -> Any:
    equals = np.arange(table.record_count, dtype=np.int32)
    return nearest_in_groups(table, groups, also.pop("of", wanted()), way, also.pop("top", 10), equals, share, **also)


def exactly(table: VectorTable, way: Similarity = Similarity.COSINE, **also: Any) -> list[int]:
    equals = np.arange(table.record_count, dtype=np.int32)
    own = nearest(table, also.pop("of", wanted()), way, also.pop("top", 10), equals, **also)
    return own.record_ids.tolist()


@pytest.mark.parametrize("way", WAYS)
def test_every_vector_is_in_the_group_whose_middle_is_nearest(way: Similarity):
    table = made(500)
    groups = grouped(table, way)
    assert sorted(groups.rows.tolist()) == list(range(500))
    own = np.repeat(np.arange(groups.count), np.diff(groups.firsts))
    vectors = table.vectors[groups.rows]
    if way is Similarity.COSINE:
        vectors = vectors / np.linalg.norm(vectors, axis=1, keepdims=True)
    apart = np.linalg.norm(vectors[:, None, :] - groups.middles[None], axis=2)
    assert np.allclose(apart[np.arange(500), own], apart.min(axis=1), atol=1e-5)


def test_a_code_is_no_further_off_than_half_a_step():
    table = made(400)
    groups = grouped(table, Similarity.DOT)
    own = np.repeat(np.arange(groups.count), np.diff(groups.firsts))
    told = groups.middles[own] + groups.lows + groups.codes * groups.steps
    assert (np.abs(told - table.vectors[groups.rows]) <= groups.steps / 2 + 1e-5).all()
    assert (groups.codes.min(), groups.codes.max()) == (0, 255)


def test_middles_are_where_vectors_are():
    table = made(2_000, heaps=4)
    groups = grouped(table, Similarity.EUCLIDEAN)
    own = np.repeat(np.arange(groups.count), np.diff(groups.firsts))
    apart = np.linalg.norm(table.vectors[groups.rows] - groups.middles[own], axis=1)
    # Scattered by 0.2 in each of eight dimensions.
    assert apart.mean() < 0.2 * np.sqrt(8)


def test_the_same_vectors_give_the_same_groups():
    one, other = grouped(made(600), Similarity.COSINE), grouped(made(600), Similarity.COSINE)
    assert (one.rows == other.rows).all()
    assert (one.codes == other.codes).all()


@pytest.mark.parametrize("way", WAYS)
def test_all_groups_give_the_exact_list(way: Similarity):
    table = made(700)
    told = found(table, grouped(table, way), 1.0, way)
    assert told.exact
    assert told.compared == 700
    assert told.found.record_ids.tolist() == exactly(table, way)


@pytest.mark.parametrize("way", WAYS)
def test_few_groups_give_nearly_all_of_it_where_vectors_lie_in_heaps(way: Similarity):
    table = made(4_000, heaps=40)
    groups = grouped(table, way)
    held = compared = 0
    for seed in range(20):
        one = table.vectors[seed * 7]
        told = found(table, groups, 0.1, way, of=one)
        held += len(set(told.found.record_ids.tolist()) & set(exactly(table, way, of=one)))
        compared += told.compared
        assert not told.exact
    assert held >= 190
    assert compared < 20 * 1_000


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(WAYS), st.floats(0.01, 0.99), st.integers(1, 40))
def test_whatever_is_found_is_told_exactly_and_in_order(seed: int, way: Similarity, share: float, top: int):
    table = made(300, seed)
    own = found(table, grouped(table, way), share, way, of=wanted(seed), top=top).found
    exact, rows = similarity_of_records(table, own.record_ids.astype(np.int64), wanted(seed), way)
    assert own.similarities.tolist() == exact.tolist()
    assert own.rows.tolist() == rows.tolist()
    assert own.record_ids.size == top
    assert sorted(own.similarities.tolist(), reverse=True) == own.similarities.tolist()


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.01, 0.99), st.floats(0.01, 1.0))
def test_a_filter_is_kept_and_fills_the_list(seed: int, share: float, kept: float):
    table = made(300, seed)
    allowed = np.random.default_rng(seed).random(300) < kept
    own = found(table, grouped(table, Similarity.COSINE), share, allowed=allowed).found
    assert allowed[own.record_ids].all()
    assert own.record_ids.size == min(10, np.count_nonzero(allowed))


@pytest.mark.parametrize(("left", "is_exact"), [(99, True), (100, True), (101, False)])
def test_where_a_filter_leaves_no_more_than_would_be_compared_nothing_is_missing(left: int, is_exact: bool):
    """A quarter of twenty groups of twenty records: a hundred."""
    table = made(400)
    groups = grouped(table, Similarity.COSINE)
    assert groups.count == 20
    allowed = np.zeros(400, np.bool_)
    allowed[np.random.default_rng(2).choice(400, left, replace=False)] = True
    told = found(table, groups, 0.25, allowed=allowed)
    assert told.exact == is_exact
    if is_exact:
        assert told.compared == left
        assert told.found.record_ids.tolist() == exactly(table, allowed=allowed)


def test_a_record_stands_once_by_the_nearest_of_its_passages():
    table = made(300, each=5)
    groups = grouped(table, Similarity.COSINE)
    own = found(table, groups, 0.3, top=60).found
    assert len(set(own.record_ids.tolist())) == own.record_ids.size == 60
    exact, _ = similarity_of_records(table, own.record_ids.astype(np.int64), wanted(), Similarity.COSINE)
    assert own.similarities.tolist() == exact.tolist()


def test_records_less_alike_are_left_out():
    table = made(500)
    groups = grouped(table, Similarity.COSINE)
    everything = found(table, groups, 0.5, top=50).found
    middle = float(everything.similarities[20])
    assert found(table, groups, 0.5, top=50, at_least=middle).found.record_ids.size == 21


def test_equally_alike_records_stand_in_the_order_of_equals():
    same = np.tile(np.array([[1.0, 0.0]], np.float32), (30, 1))
    table = vector_table(30, 2, list(range(30)), [same], [(0, 0, 0, 0)] * 30)
    backwards = np.arange(30, dtype=np.int32)[::-1].copy()
    own = nearest_in_groups(table, grouped(table, Similarity.DOT), same[0], Similarity.DOT, 3, backwards, 0.9).found
    assert own.record_ids.tolist() == [29, 28, 27]


def test_a_query_that_points_nowhere_finds_nothing():
    table = made(100)
    told = found(table, grouped(table, Similarity.COSINE), 0.2, of=np.zeros(8, np.float32))
    assert told.found.record_ids.size == 0


def test_an_empty_table_has_groups_that_find_nothing():
    table = vector_table(3, 8, [], [], [])
    groups = regrouped(grouped(made(50), Similarity.DOT), table)
    assert found(table, groups, 0.5, Similarity.DOT).found.record_ids.size == 0


def test_what_comes_and_goes_is_put_around_the_same_middles():
    before = grouped(made(400), Similarity.COSINE)
    table = made(500, seed=8)
    after = regrouped(before, table)
    assert (after.middles == before.middles).all()
    assert sorted(after.rows.tolist()) == list(range(500))
    assert found(table, after, 1.0).found.record_ids.tolist() == exactly(table)


@pytest.mark.parametrize(("now", "outgrown"), [(799, False), (800, False), (801, True)])
def test_middles_are_outgrown_by_more_than_twice_as_many(now: int, outgrown: bool):
    before = grouped(made(400), Similarity.COSINE)
    assert before.are_outgrown_by(now) == outgrown
    assert regrouped(before, made(now)).are_outgrown_by(now) == outgrown


@pytest.mark.parametrize(("vectors", "groups"), [(0, 1), (2, 1), (3, 2), (12_345, 111), (16_777_216, 4_096)])
def test_a_group_has_about_as_many_vectors_as_there_are_groups(vectors: int, groups: int):
    assert groups_for(vectors) == groups


def test_it_can_be_ended():
    def end() -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        grouped(made(100), Similarity.DOT, end)
