"""Score columns: each reading's share of the scores of some records, for bars and formulas."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray
from pale_harbor.core.ranking.bm25 import term_part
from pale_harbor.core.ranking.found import FoundTerm
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading
from pale_harbor.core.ranking.ranker import CombineHow
from pale_harbor.core.ranking.search import pooled_frequencies


def score_columns(query: PreparedQuery, record_ids: IntArray) -> FloatArray:
    """Each reading's unweighted score of each record, 0 where nothing matched: (records, readings).

    With pooled readings a term's score is dealt out as the readings' occurrences add to the pool,
    weights included.
    """
    if not query.readings:
        return np.zeros((record_ids.size, 0))
    if query.pool is not None:
        return _pool_columns(query, record_ids)
    return np.stack([_column(prepared, record_ids) for prepared in query.readings], axis=1)


def shares(query: PreparedQuery, record_ids: IntArray) -> FloatArray:
    """What each reading adds to the score of each record, before signals: (records, readings)."""
    columns = score_columns(query, record_ids)
    if query.pool is not None:
        return columns
    weighted = columns * query.weights
    combine = query.plan.ranker.combine
    if combine.how is not CombineHow.STRONGEST or not weighted.size:
        return weighted
    best = weighted.argmax(axis=1)
    dealt = weighted * combine.share
    dealt[np.arange(record_ids.size), best] = weighted[np.arange(record_ids.size), best]
    return dealt


def frequencies_of(found: FoundTerm, record_ids: IntArray) -> tuple[IntArray, NDArray[Any]]:
    """Which of these records hold it (as places in `record_ids`), and how often.

    record_ids: (records,), ascending; both results (held,).
    """
    places = np.searchsorted(found.record_ids, record_ids)
    places[places == found.record_ids.size] = 0
    held = np.flatnonzero(found.record_ids[places] == record_ids)
    return held, found.frequencies[places[held]]


def _column(prepared: PreparedReading, record_ids: IntArray) -> FloatArray:
    base, slope = prepared.norm
    column = np.zeros(record_ids.size)
    for term, found in prepared.found_terms():
        held, frequencies = frequencies_of(found, record_ids)
        norms = base + slope * prepared.index.lengths[record_ids[held]]
        column[held] += term_part(term.factor, frequencies, prepared.reading.k1, norms)
    return column


def _pool_columns(query: PreparedQuery, record_ids: IntArray) -> FloatArray:
    columns = np.zeros((record_ids.size, len(query.readings)))
    k1 = query.plan.ranker.combine.k1
    numbers = {id(prepared): number for number, prepared in enumerate(query.readings)}
    for term in query.pool or ():
        pooled = pooled_frequencies(term)
        if pooled is None:
            continue
        held, sums = frequencies_of(pooled, record_ids)
        parts = np.zeros(record_ids.size)
        parts[held] = term_part(term.factor, sums, k1, k1) / sums
        for part in term.parts:
            if part.term.found is not None:
                base, slope = part.prepared.length_share
                own, frequencies = frequencies_of(part.term.found, record_ids)
                lengths = part.prepared.index.lengths[record_ids[own]]
                added = part.multiplier * frequencies / (base + slope * lengths)
                columns[own, numbers[id(part.prepared)]] += added * parts[own]
    return columns
