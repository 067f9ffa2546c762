"""A space learned from a collection's own words: words that keep the same company come to lie together.

A matrix of records by terms, weighted, is taken apart into its strongest directions:

    weight of a term in a record = (1 + ln tf) · idf,  each record's row of length 1
    A ≈ U · S · Vᵀ;  a record lies at  a · V,  a being its weighted row

A new text and a query are *folded in* the same way: their weighted row times V. A record that was learned from
gets its own vector again.

Source: S. Deerwester, S. Dumais, G. Furnas, T. Landauer and R. Harshman, "Indexing by latent semantic analysis",
1990; the weights are those of C. Manning, P. Raghavan and H. Schütze, "Introduction to Information Retrieval", 2008.
"""

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import log
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse.linalg import LinearOperator, svds

from pale_harbor.core.arrays import FloatArray
from pale_harbor.core.index.reading_index import ReadingIndex

# A term that one record holds says nothing of company; one that half of them hold says as little.
FEWEST_RECORDS: Final = 2
MOST_OF_RECORDS: Final = 0.5
SEED: Final = 1690
# Of more terms those that most records hold: the others say little, and each takes room.
MOST_TERMS: Final = 50_000


@dataclass(frozen=True, slots=True, eq=False)
class LearnedSpace:
    """What folds texts in. numbers: by term; idf: float64 (terms,); directions: float32 (terms, dimensions).

    vectors: float32 (records, dimensions), of the records that it was learned from; nothing but zeros for a
    record that holds none of the terms.
    """

    numbers: dict[str, int]
    idf: FloatArray
    directions: NDArray[np.float32]
    vectors: NDArray[np.float32]

    @property
    def dimensions(self) -> int:
        """How many numbers a vector has."""
        return self.directions.shape[1]

    def folded_in(self, terms: Sequence[str]) -> NDArray[np.float32]:
        """The vector of a text by its terms: float32 (dimensions,), nothing but zeros where it holds none."""
        counts = Counter(number for term in terms if (number := self.numbers.get(term)) is not None)
        rows = np.array(sorted(counts), np.int64)
        weights = np.array([(1 + log(counts[row])) * self.idf[row] for row in rows.tolist()])
        length = float(np.sqrt(weights @ weights))
        if length == 0:
            return np.zeros(self.dimensions, np.float32)
        return ((weights / length) @ self.directions[rows].astype(np.float64)).astype(np.float32)


def learned_space(
    index: ReadingIndex, dimensions: int = 128, on_step: Callable[[], None] | None = None
) -> LearnedSpace:
    """The space of a reading's records, the same at every run: seeded, its directions' signs settled.

    dimensions: at most; a small collection has fewer directions. on_step: called again and again while it learns;
    whatever it raises ends the work.
    """
    holding = np.diff(index.posting_firsts)
    chosen = np.flatnonzero((holding >= FEWEST_RECORDS) & (holding <= MOST_OF_RECORDS * index.record_count))
    if chosen.size > MOST_TERMS:
        # Of terms that are held equally often the first ones; the order of terms stays.
        chosen = np.sort(chosen[np.argsort(-holding[chosen], kind="stable")[:MOST_TERMS]])
    idf = np.log(index.record_count / np.maximum(holding[chosen], 1))
    numbers = {index.vocabulary.term(int(term)): number for number, term in enumerate(chosen.tolist())}
    matrix = _weigh(index, chosen, idf)
    most = min(dimensions, min(matrix.shape) - 1)
    if most < 1:
        empty = np.zeros((len(numbers), 0), np.float32)
        return LearnedSpace(numbers, idf, empty, np.zeros((index.record_count, 0), np.float32))
    start = np.random.default_rng(SEED).standard_normal(min(matrix.shape))
    found: Any = svds(_watch(matrix, on_step), k=most, v0=start)
    strengths, directions = found[1], found[2]
    order = np.argsort(-strengths, kind="stable")
    # Directions without any strength are noise of the arithmetic.
    order = order[strengths[order] > 1e-9 * max(float(strengths.max()), 1e-300)]
    directions = _with_settled_signs(directions[order].T).astype(np.float32)
    return LearnedSpace(numbers, idf, directions, (matrix @ directions).astype(np.float32))


def _watch(matrix: Any, on_step: Callable[[], None] | None) -> Any:
    """The matrix, telling of every product that is made with it."""
    if on_step is None:
        return matrix
    turned = matrix.T.tocsr()

    def product(vector: Any) -> Any:
        on_step()
        return matrix @ vector

    def turned_product(vector: Any) -> Any:
        on_step()
        return turned @ vector

    operator: Any = LinearOperator
    return operator(matrix.shape, matvec=product, rmatvec=turned_product, dtype=np.float64)


def _weigh(index: ReadingIndex, chosen: NDArray[Any], idf: FloatArray) -> Any:
    """Records by chosen terms, weighted, each row of length 1 (or empty): a sparse matrix, float64."""
    columns: list[NDArray[Any]] = []
    records: list[NDArray[Any]] = []
    weights: list[NDArray[Any]] = []
    for column, term in enumerate(chosen.tolist()):
        postings = index.postings_of_number(term)
        records.append(postings.record_ids)
        columns.append(np.full(postings.record_ids.size, column, np.int32))
        weights.append((1 + np.log(postings.frequencies)) * idf[column])
    empty = np.zeros(0, np.int32)
    shape = (index.record_count, len(chosen))
    rows, own = np.concatenate([empty, *records]), np.concatenate([np.zeros(0), *weights])
    matrix = sparse.csr_array((own, (rows, np.concatenate([empty, *columns]))), shape=shape)
    lengths = np.sqrt(np.asarray(matrix.multiply(matrix).sum(axis=1)).ravel())
    return sparse.csr_array(sparse.diags_array(1 / np.where(lengths > 0, lengths, 1.0)) @ matrix)


def _with_settled_signs(directions: FloatArray) -> FloatArray:
    """Each direction turned so that its largest entry is positive: either way round says the same."""
    if not directions.size:
        return directions
    largest = np.abs(directions).argmax(axis=0)
    signs = np.sign(directions[largest, np.arange(directions.shape[1])])
    return np.ascontiguousarray(directions * np.where(signs == 0, 1.0, signs))
