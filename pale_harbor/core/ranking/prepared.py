"""A query made ready for the postings: for each reading the terms it looks for, and their factors.

A collection's records lie in one slab or in several; a record that was changed or deleted is dead in
its slab. What a term is worth is counted over all slabs' living records, so that a list is the same
however the records are spread.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.index.reading_index import Postings, ReadingIndex
from pale_harbor.core.ranking.bm25 import inverse_document_frequency, length_norm
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.text.chain_choice import query_chain_of

Alive = NDArray[np.bool_]
IntArray = NDArray[np.integer[Any]]


@dataclass(frozen=True, slots=True)
class ReadingStatistics:
    """What a reading's scores need to know of the whole collection: N, and the mean length in tokens.

    average_length: over all living records; 1.0 where there is no token, and it is never used.
    """

    record_count: int
    average_length: float


def statistics_of(slabs: Sequence[tuple[ReadingIndex, Alive | None]]) -> ReadingStatistics:
    """A reading's statistics from its indexes, each with which of its records live (None: all)."""
    record_count = tokens = 0
    for index, alive in slabs:
        if alive is None:
            record_count += index.record_count
            tokens += index.occurrence_count
        else:
            record_count += int(np.count_nonzero(alive))
            tokens += int(index.lengths[alive].sum(dtype=np.int64))
    return ReadingStatistics(record_count, tokens / record_count if tokens else 1.0)


@dataclass(frozen=True, slots=True, eq=False)
class QueryTerm:
    """A distinct term of the query in one reading, with its postings (None: no record holds it)."""

    text: str
    times: int
    holding: int
    idf: float
    postings: Postings | None

    @property
    def factor(self) -> float:
        """idf, as often as the query says the term."""
        return self.idf * self.times


@dataclass(frozen=True, slots=True, eq=False)
class PreparedReading:
    """One reading's share of a query in one slab. Terms in the order in which the query says them first."""

    reading: Reading
    index: ReadingIndex
    terms: tuple[QueryTerm, ...]
    statistics: ReadingStatistics

    @property
    def norm(self) -> tuple[float, float]:
        return length_norm(self.reading.k1, self.reading.b, self.statistics.average_length)

    def found_terms(self) -> list[tuple[QueryTerm, Postings]]:
        """The terms that some record holds."""
        return [(term, term.postings) for term in self.terms if term.postings is not None]


@dataclass(frozen=True, slots=True, eq=False)
class PreparedQuery:
    """A query against all readings of a ranker in one slab; a reading of weight 0 is left out.

    alive: bool (records of the slab,), None where all live.
    """

    readings: tuple[PreparedReading, ...]
    alive: Alive | None = None

    @property
    def weights(self) -> NDArray[np.float64]:
        return np.array([prepared.reading.weight for prepared in self.readings])


def prepare(query: str, readings: Sequence[Reading], indexes: Sequence[ReadingIndex]) -> PreparedQuery:
    """The query read through each reading's query chain and looked up in its index: one slab, all alive."""
    statistics = [statistics_of([(index, None)]) for index in indexes]
    (prepared,) = prepare_slabs(query, readings, statistics, [(indexes, None)])
    return prepared


def prepare_slabs(
    query: str,
    readings: Sequence[Reading],
    statistics: Sequence[ReadingStatistics],
    slabs: Sequence[tuple[Sequence[ReadingIndex], Alive | None]],
    language: str | None = None,
) -> list[PreparedQuery]:
    """The query looked up in every slab.

    statistics: of each reading; slabs: each with the index of each reading, and which records live;
    language: the query's, for readings that choose their chain by it; guessed where it is None.
    """
    parts: list[list[PreparedReading]] = [[] for _ in slabs]
    for number, reading in enumerate(readings):
        if reading.weight <= 0:
            continue
        said = query_chain_of(reading.query_chain, query, language).terms(query)
        terms = _terms(said, statistics[number], [(indexes[number], alive) for indexes, alive in slabs])
        for (indexes, _), own, prepared in zip(slabs, terms, parts, strict=True):
            prepared.append(PreparedReading(reading, indexes[number], own, statistics[number]))
    return [PreparedQuery(tuple(own), alive) for own, (_, alive) in zip(parts, slabs, strict=True)]


def _terms(
    said: Sequence[str], statistics: ReadingStatistics, slabs: Sequence[tuple[ReadingIndex, Alive | None]]
) -> list[tuple[QueryTerm, ...]]:
    """The query's terms as each slab holds them, their weight counted over all slabs."""
    times = Counter(said)
    by_slab: list[list[QueryTerm]] = [[] for _ in slabs]
    for text, count in times.items():
        postings = [index.postings(text) for index, _ in slabs]
        holding = sum(_living(found, alive) for found, (_, alive) in zip(postings, slabs, strict=True))
        idf = inverse_document_frequency(statistics.record_count, holding)
        for found, own in zip(postings, by_slab, strict=True):
            own.append(QueryTerm(text, count, holding, idf, found))
    return [tuple(own) for own in by_slab]


def _living(postings: Postings | None, alive: Alive | None) -> int:
    if postings is None:
        return 0
    return postings.record_ids.size if alive is None else int(np.count_nonzero(alive[postings.record_ids]))
