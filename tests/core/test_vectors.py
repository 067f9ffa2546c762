"""Spaces: the nearest vectors are those of brute force, and what is learned is the same at every run."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from pale_harbor.core.index import ReadingIndex, build_index
from pale_harbor.core.text import chain_of
from pale_harbor.core.vectors import Similarity, comparable, learned_space, nearest

seeds = st.integers(0, 10_000)


def brute_force(vectors: np.ndarray, wanted: np.ndarray, similarity: Similarity) -> np.ndarray:
    """How alike each vector is, in float64 and one by one."""
    found: list[float] = []
    for vector in vectors.astype(np.float64):
        product = float(vector @ wanted)
        lengths = float(np.linalg.norm(vector) * np.linalg.norm(wanted))
        match similarity:
            case Similarity.COSINE:
                found.append(product / lengths if lengths else 0.0)
            case Similarity.DOT:
                found.append(product)
            case Similarity.EUCLIDEAN:
                found.append(1 / (1 + float(np.linalg.norm(vector - wanted))))
    return np.array(found)


@given(
    seed=seeds,
    count=st.integers(0, 60),
    top=st.integers(1, 20),
    similarity=st.sampled_from(Similarity),
    some=st.booleans(),
    threshold=st.none() | st.sampled_from([-1.0, 0.0, 0.5]),
)
def test_the_nearest_are_those_of_brute_force(
    seed: int, count: int, top: int, similarity: Similarity, some: bool, threshold: float | None
):
    rng = np.random.default_rng(seed)
    vectors, wanted = rng.standard_normal((count, 8)), rng.standard_normal(8)
    allowed = rng.random(count) < 0.5 if some else None
    ready = comparable(vectors, similarity)
    asked = comparable(wanted[None], similarity)[0]
    order = np.arange(count, dtype=np.int32)
    found = nearest(ready, asked, similarity, top, order, allowed, threshold)
    expected = brute_force(vectors, wanted, similarity)
    passing = np.ones(count, bool) if allowed is None else allowed
    if threshold is not None:
        # What lies on the threshold itself may fall to either side in float32.
        if (np.abs(expected - threshold) < 1e-5).any():
            return
        passing = passing & (expected >= threshold)
    best = np.flatnonzero(passing)[np.argsort(-expected[passing], kind="stable")][:top]
    assert found.passing == passing.sum()
    assert found.rows.tolist() == best.tolist()
    assert found.similarities == pytest.approx(expected[best], abs=1e-5)


def test_equal_vectors_go_by_the_order():
    vectors = comparable(np.array([[1.0, 0.0]] * 4), Similarity.COSINE)
    order = np.array([2, 0, 3, 1], np.int32)
    assert nearest(vectors, vectors[0], Similarity.COSINE, 3, order).rows.tolist() == [1, 3, 0]


def test_a_zero_vector_and_one_that_is_no_number_are_near_nothing():
    vectors = comparable(np.array([[0.0, 0.0], [1.0, 0.0], [np.nan, 1.0]]), Similarity.COSINE)
    found = nearest(vectors, vectors[1], Similarity.COSINE, 3, np.arange(3, dtype=np.int32), threshold=0.1)
    assert (found.rows.tolist(), found.passing) == ([1], 1)


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
    # Turned so that the largest entry of each direction is positive.
    largest = np.abs(first.directions).argmax(axis=0)
    assert (first.directions[largest, np.arange(20)] > 0).all()


@pytest.mark.parametrize("texts", [[], ["lamp"], ["lamp", "rope"], ["lamp"] * 5, [""] * 4])
def test_too_little_to_learn_from_gives_a_space_of_nothing(texts: list[str]):
    space = learned_space(index_of(texts), 8)
    assert space.vectors.shape[0] == len(texts)
    assert space.folded_in(["lamp", "unheard"]).shape == (space.dimensions,)
