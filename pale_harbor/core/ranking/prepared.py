"""A query made ready for the postings of one slab: what each reading looks for, and what it is worth."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.ranking.bm25 import length_norm
from pale_harbor.core.ranking.found import FoundTerm
from pale_harbor.core.ranking.plan import Demand, QueryPlan
from pale_harbor.core.ranking.ranker import Reading
from pale_harbor.core.ranking.sheet import Sheet

Alive = NDArray[np.bool_]


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


class TermKind(Enum):
    """How something that is looked for came about."""

    TERM = "term"
    SYNONYM = "synonym"
    SPELLING = "spelling"
    SIMILAR = "similar"
    BEGINNING = "beginning"
    ENDING = "ending"
    PHRASE = "phrase"
    NEAR = "near"
    ENOUGH = "enough"
    FEEDBACK = "feedback"


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class QueryTerm:
    """Something that one reading looks for, with where it stands in the slab (found; None: nowhere).

    text: the term, or what is shown for it; said: the query's own term that it stands in for, the
    same for a plain one. times: how often the query says it; worth: what an occurrence counts, 0 where
    it only matches. bits: the words of the query that a record with it holds. holding: living records
    that have it, over all slabs; edits: of a spelling. places: of a phrase's terms; numbers: of the
    terms that begin or end so.
    """

    kind: TermKind
    text: str
    said: str
    times: int
    worth: float
    bits: int
    holding: int
    idf: float
    found: FoundTerm | None
    edits: int = 0
    places: tuple[tuple[str, int], ...] = ()
    numbers: IntArray | None = None

    @property
    def factor(self) -> float:
        """idf, as often as the query says the term, times its worth."""
        return self.idf * self.times * self.worth


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class PreparedReading:
    """One reading's share of a query in one slab. Terms in the order in which the query says them first.

    number: which of the ranker's readings it is, −1 where it is literal: there for quoted words only.
    """

    number: int
    reading: Reading
    literal: bool
    index: ReadingIndex
    terms: tuple[QueryTerm, ...]
    statistics: ReadingStatistics

    @property
    def norm(self) -> tuple[float, float]:
        """BM25's norm of a record's length: (base, slope), see `length_norm`."""
        return length_norm(self.reading.k1, self.reading.b, self.statistics.average_length)

    @property
    def length_share(self) -> tuple[float, float]:
        """(base, slope), such that base + slope · length = 1 − b + b · length / average."""
        return length_norm(1.0, self.reading.b, self.statistics.average_length)

    def found_terms(self) -> list[tuple[QueryTerm, FoundTerm]]:
        """The terms that some record holds."""
        return [(term, term.found) for term in self.terms if term.found is not None]


@dataclass(frozen=True, slots=True, eq=False)
class PooledPart:
    """What one reading adds to a pooled term: weight · worth · frequency / (1 − b + b · length / average)."""

    prepared: PreparedReading
    term: QueryTerm

    @property
    def multiplier(self) -> float:
        """What the part's frequency counts: its reading's weight and its worth."""
        # What only matches is counted as if it were worth something; the term's factor is 0.
        return self.prepared.reading.weight * (self.term.worth or 1.0)


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class PooledTerm:
    """The same term in several readings, taken as one. holding: living records that have it in any of them."""

    kind: TermKind
    text: str
    times: int
    holding: int
    idf: float
    parts: tuple[PooledPart, ...]

    @property
    def factor(self) -> float:
        """The term's inverse document frequency times how often it is asked."""
        worthless = all(part.term.worth == 0 for part in self.parts)
        return 0.0 if worthless else self.idf * self.times


@dataclass(frozen=True, slots=True, eq=False)
class Marker:
    """Records that hold a word without anything to score: values within a range. record_ids: ascending."""

    record_ids: IntArray
    bits: int


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class PreparedQuery:
    """A query against all readings of a plan in one slab.

    alive: bool (records of the slab,), None where all live. demand: what a record must hold, None where
    any term is enough and where nothing is looked for. everything: whether records that hold nothing of
    the query match too. pool: with pooled readings, what is scored instead of the readings' terms.
    words: bits that some reading looks for. sheet: the readings' scores where they are there already.
    """

    plan: QueryPlan
    readings: tuple[PreparedReading, ...]
    alive: Alive | None
    demand: Demand | None
    words: int
    record_count: int
    markers: tuple[Marker, ...] = ()
    everything: bool = False
    pool: tuple[PooledTerm, ...] | None = None
    sheet: Sheet | None = None

    @property
    def weights(self) -> NDArray[np.float64]:
        """The weight of each reading, in order."""
        return np.array([prepared.reading.weight for prepared in self.readings])
