"""Why a record has its score: the arithmetic, part by part, so that it adds up again."""

from dataclasses import dataclass

import numpy as np

from pale_harbor.core.ranking.bm25 import term_part
from pale_harbor.core.ranking.prepared import PreparedQuery, PreparedReading


@dataclass(frozen=True, slots=True)
class TermPart:
    """What one term adds to one reading's score: `score`, with everything it is computed from.

    times: how often the query says the term; holding: records that hold it (df).
    """

    term: str
    times: int
    holding: int
    idf: float
    frequency: int
    norm: float
    score: float


@dataclass(frozen=True, slots=True)
class ReadingPart:
    """One reading's share: weight · (sum of the terms' scores).

    length, average_length: in tokens. missing: terms of the query that the record lacks here.
    """

    field: str
    chain: str
    weight: float
    k1: float
    b: float
    length: int
    average_length: float
    record_count: int
    terms: tuple[TermPart, ...]
    missing: tuple[str, ...]

    @property
    def unweighted(self) -> float:
        total = 0.0
        for term in self.terms:
            total += term.score
        return total

    @property
    def score(self) -> float:
        return self.weight * self.unweighted


@dataclass(frozen=True, slots=True)
class Why:
    """The parts of a record's score; `score` is their sum, to the last digit of the list's."""

    readings: tuple[ReadingPart, ...]

    @property
    def score(self) -> float:
        total = 0.0
        for reading in self.readings:
            total += reading.score
        return total


def why(query: PreparedQuery, record_id: int) -> Why:
    """The arithmetic of one record's score for a query."""
    return Why(tuple(_reading_part(prepared, record_id) for prepared in query.readings))


def _reading_part(prepared: PreparedReading, record_id: int) -> ReadingPart:
    reading, index = prepared.reading, prepared.index
    base, slope = prepared.norm
    length = int(index.lengths[record_id])
    norm = base + slope * length
    terms: list[TermPart] = []
    missing: list[str] = []
    for term in prepared.terms:
        frequency = 0
        if term.postings is not None:
            at = int(np.searchsorted(term.postings.record_ids, record_id))
            if at < term.postings.record_ids.size and term.postings.record_ids[at] == record_id:
                frequency = int(term.postings.frequencies[at])
        if frequency:
            score = float(term_part(term.factor, frequency, reading.k1, norm))
            terms.append(TermPart(term.text, term.times, term.holding, term.idf, frequency, norm, score))
        else:
            missing.append(term.text)
    return ReadingPart(
        reading.field,
        reading.chain.notation,
        reading.weight,
        reading.k1,
        reading.b,
        length,
        prepared.statistics.average_length,
        prepared.statistics.record_count,
        tuple(terms),
        tuple(missing),
    )
