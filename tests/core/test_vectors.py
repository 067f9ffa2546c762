"""Spaces: the nearest records are those of brute force, and what is learned is the same at every run."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import ReadingIndex, build_index
from pale_harbor.core.text import chain_of
from pale_harbor.core.vectors import (
    Fault,
    Similarity,
    VectorTable,
    faults_of,
    learned_space,
    merged_tables,
    nearest,
    plane_of,
    pooled_vectors,
    similarity_of_records,
    vector_table,
    wanted_by_examples,
    word_similarity,
)

seeds = st.integers(0, 10_000)
RECORDS = 40


def table_of(owners: list[int], vectors: np.ndarray, record_count: int = RECORDS) -> VectorTable:
    places = [(0, 0, i, i + 1) for i in range(len(owners))]
    return vector_table(record_count, vectors.shape[1], owners, [vectors.astype(np.float32)], places)


def alike(vector: np.ndarray, wanted: np.ndarray, similarity: Similarity) -> float:
    """How alike two vectors are, in float64, as the formula stands."""
    vector, wanted = vector.astype(np.float64), wanted.astype(np.float64)
    match similarity:
        case Similarity.COSINE:
            return float(vector @ wanted / (np.linalg.norm(vector) * np.linalg.norm(wanted)))
        case Similarity.DOT:
            return float(vector @ wanted)
        case Similarity.EUCLIDEAN:
            return 1 / (1 + float(np.linalg.norm(vector - wanted)))


def brute_force(table: VectorTable, wanted: np.ndarray, similarity: Similarity) -> dict[int, float]:
    """Each record's similarity by its nearest vector, one vector after the other."""
    best: dict[int, float] = {}
    for owner, vector in zip(table.owners.tolist(), table.vectors, strict=True):
        best[owner] = max(best.get(owner, -np.inf), alike(vector, wanted, similarity))
    return best


@st.composite
def tables(draw: st.DrawFn) -> tuple[VectorTable, np.ndarray, np.random.Generator]:
    """Records with one vector each, with none, or with several; some vectors lie very close to others."""
    rng = np.random.default_rng(draw(seeds))
    owners = sorted(draw(st.lists(st.integers(0, RECORDS - 1), max_size=70)))
    if draw(st.booleans()):
        owners = list(range(RECORDS))
    vectors = rng.standard_normal((len(owners), 6)).astype(np.float32)
    if len(owners) > 3 and draw(st.booleans()):
        # A hair's breadth apart: float32 cannot order them, float64 can.
        vectors[1:] = (
            vectors[0] * (1 + 1e-6 * rng.standard_normal((len(owners) - 1, 1))) + np.float32(1e-6) * vectors[1:]
        )
    return table_of(owners, vectors.reshape(-1, 6)), rng.standard_normal(6).astype(np.float32), rng


@given(
    drawn=tables(),
    top=st.integers(1, 20),
    similarity=st.sampled_from(Similarity),
    some=st.booleans(),
    at_least=st.none() | st.sampled_from([-1.0, 0.0, 0.3, 0.5]),
)
def test_the_nearest_are_those_of_brute_force_in_float64(
    drawn: tuple[VectorTable, np.ndarray, np.random.Generator],
    top: int,
    similarity: Similarity,
    some: bool,
    at_least: float | None,
):
    table, wanted, rng = drawn
    allowed = rng.random(RECORDS) < 0.5 if some else None
    order = rng.permutation(RECORDS).astype(np.int32)
    found = nearest(table, wanted, similarity, top, order, allowed, at_least)
    expected = {
        record: value
        for record, value in brute_force(table, wanted, similarity).items()
        if (allowed is None or allowed[record]) and (at_least is None or value >= at_least)
    }
    best = sorted(expected, key=lambda record: (-expected[record], order[record]))[:top]
    assert found.similarities.tolist() == pytest.approx([expected[record] for record in best], abs=1e-12)
    # Records that float64 itself can hardly tell apart may change places.
    for record, wanted_there in zip(found.record_ids.tolist(), best, strict=True):
        assert expected[record] == pytest.approx(expected[wanted_there], abs=1e-12)
    for record, row, value in zip(found.record_ids.tolist(), found.rows.tolist(), found.similarities, strict=True):
        assert table.owners[row] == record
        assert alike(table.vectors[row], wanted, similarity) == pytest.approx(value, abs=1e-12)


@given(drawn=tables(), similarity=st.sampled_from(Similarity))
def test_a_record_is_as_alike_asked_alone_as_in_the_list(
    drawn: tuple[VectorTable, np.ndarray, np.random.Generator], similarity: Similarity
):
    table, wanted, _ = drawn
    found = nearest(table, wanted, similarity, RECORDS, np.arange(RECORDS, dtype=np.int32))
    values, rows = similarity_of_records(table, np.arange(RECORDS), wanted, similarity)
    assert values[found.record_ids].tolist() == found.similarities.tolist()
    assert rows[found.record_ids].tolist() == found.rows.tolist()
    without = sorted(set(range(RECORDS)) - set(table.owners.tolist()))
    assert set(rows[without].tolist()) <= {-1}


@given(drawn=tables(), cut=st.integers(0, RECORDS), similarity=st.sampled_from(Similarity))
def test_slabs_give_the_same_similarities_to_the_last_digit(
    drawn: tuple[VectorTable, np.ndarray, np.random.Generator], cut: int, similarity: Similarity
):
    table, wanted, rng = drawn
    new_ids = rng.permutation(RECORDS).astype(np.int32)
    new_ids[rng.random(RECORDS) < 0.2] = -1
    # Two slabs of the same records, each knowing its own only.
    parts: list[tuple[VectorTable, np.ndarray]] = []
    for own in (table.owners < cut, table.owners >= cut):
        parts.append((table_of(table.owners[own].tolist(), table.vectors[own]), new_ids))
    merged = merged_tables(parts, RECORDS)
    before, _ = similarity_of_records(table, np.arange(RECORDS), wanted, similarity)
    after, _ = similarity_of_records(merged, np.arange(RECORDS), wanted, similarity)
    for record in range(RECORDS):
        if new_ids[record] >= 0:
            assert after[new_ids[record]] == before[record]
    assert merged.owners.tolist() == sorted(merged.owners.tolist())


def test_equal_vectors_go_by_the_order():
    table = table_of([0, 1, 2, 3], np.array([[1.0, 0.0]] * 4), 4)
    order = np.array([2, 0, 3, 1], np.int32)
    assert nearest(table, table.vectors[0], Similarity.COSINE, 3, order).record_ids.tolist() == [1, 3, 0]


def test_nothing_is_near_a_direction_that_is_none():
    table = table_of([0], np.array([[1.0, 0.0]]), 1)
    nowhere = np.zeros(2, np.float32)
    assert nearest(table, nowhere, Similarity.COSINE, 5, np.zeros(1, np.int32)).record_ids.size == 0
    assert similarity_of_records(table, np.array([0]), nowhere, Similarity.COSINE)[1].tolist() == [-1]


def test_a_vector_is_looked_at_before_it_comes_in():
    strange: list[Any] = [[1, 2], [0.0, 0.0], [1.0], [float("inf"), 0.0], ["a", "b"], None, [1e60, 1.0], [[1.0, 2.0]]]
    assert faults_of(strange, 2) == [
        None,
        Fault.ZERO,
        Fault.WRONG_DIMENSION,
        Fault.NOT_FINITE,
        Fault.NOT_FINITE,
        Fault.WRONG_DIMENSION,
        Fault.NOT_FINITE,
        Fault.WRONG_DIMENSION,
    ]


@given(seed=seeds, sizes=st.lists(st.integers(0, 5), max_size=8))
def test_a_text_lies_at_the_mean_of_its_pieces(seed: int, sizes: list[int]):
    rng = np.random.default_rng(seed)
    pieces = rng.standard_normal((9, 3)).astype(np.float32)
    texts = [rng.integers(0, 9, size).tolist() for size in sizes]
    found = pooled_vectors(pieces, texts)
    for text, vector in zip(texts, found, strict=True):
        expected = pieces[text].mean(axis=0) if text else np.zeros(3)
        assert vector == pytest.approx(expected, abs=1e-6)


def test_away_from_a_disliked_record():
    east, north = np.array([[2.0, 0.0]], np.float32), np.array([[0.0, 3.0]], np.float32)
    assert wanted_by_examples(east, north[:0]).tolist() == [1.0, 0.0]
    assert wanted_by_examples(east, north).tolist() == [1.0, -0.5]
    assert wanted_by_examples(np.concatenate([east, north]), north, away=1.0).tolist() == [0.5, -0.5]


def test_each_word_of_the_query_counts_by_its_best_match():
    query = np.array([[1.0, 0.0], [0.0, 2.0]], np.float32)
    record = np.array([[0.0, 1.0], [3.0, 4.0], [0.0, 0.0]], np.float32)
    found = word_similarity(query, record)
    assert found.best.tolist() == pytest.approx([0.6, 1.0])
    assert (found.which.tolist(), found.value) == ([1, 0], pytest.approx(0.8))
    assert word_similarity(query, record[:0]).which.tolist() == [-1, -1]
    assert word_similarity(query[:0], record).value == 0


def test_the_plane_tells_which_share_of_the_spread_it_keeps():
    points = np.array([[1, 0, 0], [-1, 0, 0], [0, 0.5, 0], [0, -0.5, 0], [0, 0, 0.1], [0, 0, -0.1]])
    plane = plane_of(points)
    # The squares along the axes are 2, 0.5 and 0.02.
    assert plane.kept == pytest.approx(2.5 / 2.52)
    assert plane.axes.tolist() == [[1, 0, 0], [0, 1, 0]]


@given(seed=seeds, count=st.integers(0, 30))
def test_a_map_keeps_the_two_directions_that_differ_most(seed: int, count: int):
    rng = np.random.default_rng(seed)
    # Wide along two axes, narrow along the others.
    vectors = rng.standard_normal((count, 5)) * np.array([0.01, 9.0, 0.01, 3.0, 0.01])
    plane = plane_of(vectors)
    assert plane.axes @ plane.axes.T == pytest.approx(np.eye(2), abs=1e-9)
    if count > 5:
        # Both wide axes lie in the plane, in whichever turn, the wider direction first.
        assert np.sum(plane.axes[:, [1, 3]] ** 2) == pytest.approx(2, abs=0.01)
        wide, narrow = plane.place(vectors).var(axis=0)
        assert wide >= narrow
        assert plane.kept > 0.99
        assert plane.place(vectors).mean(axis=0) == pytest.approx([0, 0], abs=1e-9)
        assert plane_of(vectors).place(vectors).tolist() == plane.place(vectors).tolist()


LAMPS = ["lamp oil wick light", "lamp light tower keeper", "oil wick keeper lamp", "tower light keeper oil"]
ROPES = ["rope knot splice hemp", "hemp rope tar splice", "knot hemp tar rope", "tar splice knot sail"]


def index_of(texts: list[str]) -> ReadingIndex:
    return build_index([[text] for text in texts], chain_of("words > lower"))


def cosine(a: Any, b: Any) -> float:
    return float(a @ b / (np.linalg.norm(a) * np.linalg.norm(b)))


def test_words_that_keep_the_same_company_lie_together():
    space = learned_space(index_of(LAMPS + ROPES), 2)
    # "wick" and "tower" never stand in one record, and still mean more alike than "wick" and "knot".
    wick, tower, knot = (space.folded_in([word]) for word in ("wick", "tower", "knot"))
    assert cosine(wick, tower) > 0.9
    assert abs(cosine(wick, knot)) < 0.3


@given(
    texts=st.lists(st.lists(st.sampled_from((" ".join(LAMPS + ROPES)).split()), max_size=12).map(" ".join), max_size=20)
)
def test_a_record_that_is_folded_in_again_gets_its_own_vector(texts: list[str]):
    space = learned_space(index_of(texts), 4)
    for record, text in enumerate(texts):
        again = space.folded_in(text.split())
        own = space.vectors[record]
        assert again == pytest.approx(own, abs=1e-5)


def test_what_is_learned_is_the_same_at_every_run():
    rng = np.random.default_rng(5)
    words = [f"word{number}" for number in range(300)]
    texts = [" ".join(rng.choice(words, 30)) for _ in range(400)]
    first, second = (learned_space(index_of(texts), 20) for _ in range(2))
    assert first.vectors == pytest.approx(second.vectors, abs=1e-6)
    assert first.dimensions == 20
    assert sum((abs(a @ b) for a, b in zip(first.directions.T, second.directions.T, strict=True))) > 19.99
    # Turned so that the largest entry of each direction is positive.
    largest = np.abs(first.directions).argmax(axis=0)
    assert (first.directions[largest, np.arange(20)] > 0).all()


@pytest.mark.parametrize("texts", [[], ["lamp"], ["lamp", "rope"], ["lamp"] * 5, [""] * 4])
def test_too_little_to_learn_from_gives_a_space_of_nothing(texts: list[str]):
    space = learned_space(index_of(texts), 8)
    assert space.vectors.shape[0] == len(texts)
    assert space.folded_in(["lamp", "unheard"]).shape == (space.dimensions,)


def test_learning_can_be_ended_between_steps():
    steps = 0

    def on_step() -> None:
        nonlocal steps
        steps += 1
        if steps == 3:
            raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        learned_space(index_of(LAMPS + ROPES), 2, on_step)
    watched = learned_space(index_of(LAMPS + ROPES), 2, lambda: None)
    assert watched.vectors == pytest.approx(learned_space(index_of(LAMPS + ROPES), 2).vectors, abs=1e-6)


def test_of_very_many_terms_those_that_most_records_hold_are_learned(monkeypatch: pytest.MonkeyPatch):
    monkeypatch.setattr("pale_harbor.core.vectors.learned.MOST_TERMS", 3)
    texts = LAMPS + ROPES
    held = {word: sum(word in text.split() for text in texts) for text in texts for word in text.split()}
    space = learned_space(index_of(texts), 2)
    assert len(space.numbers) == 3
    left_out = set(held) - set(space.numbers)
    assert min(held[word] for word in space.numbers) >= max(held[word] for word in left_out)
