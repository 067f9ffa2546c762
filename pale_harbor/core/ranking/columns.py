"""Score columns: each reading's score of a query's candidates, before weights.

With the columns at hand another weight is a product and a sum, and no posting is touched.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.ranking.bm25 import term_part
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading

IntArray = NDArray[np.integer[Any]]


def candidates(query: PreparedQuery) -> IntArray:
    """All living records that hold a term of the query in some reading: int32, ascending."""
    holding = [postings.record_ids for prepared in query.readings for _, postings in prepared.found_terms()]
    found = np.unique(np.concatenate(holding)) if holding else np.zeros(0, np.int32)
    return found if query.alive is None else found[query.alive[found]]


def score_columns(query: PreparedQuery, record_ids: IntArray) -> NDArray[np.float64]:
    """Each reading's score of each record, 0 where nothing matched: (records, readings)."""
    columns = [_column(prepared, record_ids) for prepared in query.readings]
    return np.stack(columns, axis=1) if columns else np.zeros((record_ids.size, 0))


def weighted_sum(columns: NDArray[np.float64], weights: NDArray[np.float64]) -> NDArray[np.float64]:
    """The scores that `search` gives for these weights, to the last digit: (records,)."""
    total = np.zeros(columns.shape[0])
    # Not a matrix product: BLAS adds in an order of its own, and the last digit decides ties.
    for reading in range(columns.shape[1]):
        total += weights[reading] * columns[:, reading]
    return total


def _column(prepared: PreparedReading, record_ids: IntArray) -> NDArray[np.float64]:
    base, slope = prepared.norm
    column = np.zeros(record_ids.size)
    for term, postings in prepared.found_terms():
        places = np.searchsorted(postings.record_ids, record_ids)
        places[places == postings.record_ids.size] = 0
        found = np.flatnonzero(postings.record_ids[places] == record_ids)
        frequencies = postings.frequencies[places[found]]
        norms = base + slope * prepared.index.lengths[record_ids[found]]
        column[found] += term_part(term.factor, frequencies, prepared.reading.k1, norms)
    return column
