"""A query made ready for the postings: for each reading the terms it looks for, and their factors."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.index.reading_index import Postings, ReadingIndex
from pale_harbor.core.ranking.bm25 import inverse_document_frequency, length_norm
from pale_harbor.core.ranking.ranker import Reading


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
    """One reading's share of a query. Terms in the order in which the query says them first."""

    reading: Reading
    index: ReadingIndex
    terms: tuple[QueryTerm, ...]

    @property
    def norm(self) -> tuple[float, float]:
        return length_norm(self.reading.k1, self.reading.b, self.index.average_length)

    def found_terms(self) -> list[tuple[QueryTerm, Postings]]:
        """The terms that some record holds."""
        return [(term, term.postings) for term in self.terms if term.postings is not None]


@dataclass(frozen=True, slots=True, eq=False)
class PreparedQuery:
    """A query against all readings of a ranker; a reading of weight 0 is left out."""

    readings: tuple[PreparedReading, ...]
    record_count: int

    @property
    def weights(self) -> NDArray[np.float64]:
        return np.array([prepared.reading.weight for prepared in self.readings])


def prepare(query: str, readings: Sequence[Reading], indexes: Sequence[ReadingIndex]) -> PreparedQuery:
    """The query read through each reading's query chain and looked up in its index."""
    prepared = [
        PreparedReading(reading, index, _terms(query, reading, index))
        for reading, index in zip(readings, indexes, strict=True)
        if reading.weight > 0
    ]
    return PreparedQuery(tuple(prepared), indexes[0].record_count if indexes else 0)


def _terms(query: str, reading: Reading, index: ReadingIndex) -> tuple[QueryTerm, ...]:
    times = Counter(reading.query_chain.terms(query))
    terms: list[QueryTerm] = []
    for text, count in times.items():
        postings = index.postings(text)
        holding = 0 if postings is None else postings.record_ids.size
        idf = inverse_document_frequency(index.record_count, holding)
        terms.append(QueryTerm(text, count, holding, idf, postings))
    return tuple(terms)
