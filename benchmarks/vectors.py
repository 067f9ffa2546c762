"""How fast the nearest records are found, beside the bare product of the matrix and the vector."""

from collections.abc import Callable
from functools import partial

import numpy as np

from benchmarks.figures import Figures
from benchmarks.in_turn import best_of
from pale_harbor.core.vectors import Similarity, VectorTable, nearest

DIMENSIONS = 256
TOP = 100
ROUNDS = 15


def vector_figures(record_count: int) -> Figures:
    """One vector each, and two in three records a second one: the best of some rounds, in turn."""
    rng = np.random.default_rng(1690)
    vectors = rng.standard_normal((record_count, DIMENSIONS), np.float32)
    wanted = rng.standard_normal(DIMENSIONS).astype(np.float32)
    order = np.arange(record_count, dtype=np.int32)
    half = rng.random(record_count) < 0.5
    ways: dict[str, Callable[[], object]] = {"bare_product_ms": lambda: vectors @ wanted}
    whole = _table(np.arange(record_count), vectors, record_count)
    passages = _table(np.sort(np.arange(record_count) * 3 // 5), vectors, record_count)
    for name, table, similarity, allowed in (
        ("cosine", whole, Similarity.COSINE, None),
        ("dot", whole, Similarity.DOT, None),
        ("euclidean", whole, Similarity.EUCLIDEAN, None),
        ("cosine_filtered", whole, Similarity.COSINE, half),
        ("cosine_passages", passages, Similarity.COSINE, None),
    ):
        table.make_ready(similarity)
        ways[f"{name}_ms"] = partial(nearest, table, wanted, similarity, TOP, order, allowed)
    best = best_of(ways, ROUNDS)
    figures: Figures = {"records": record_count, "dimensions": DIMENSIONS}
    figures |= {name: round(value, 2) for name, value in best.items()}
    figures["cosine_of_bare"] = round(best["cosine_ms"] / best["bare_product_ms"], 2)
    return figures


def _table(owners: np.ndarray, vectors: np.ndarray, record_count: int) -> VectorTable:
    nothing = np.zeros(0, np.int32)
    places = np.zeros((vectors.shape[0], 4), np.int32)
    return VectorTable(
        record_count=record_count,
        owners=owners.astype(np.int32),
        vectors=vectors,
        places=places,
        faulty=nothing,
        faults=nothing.astype(np.int8),
    )
