"""The score sheet of one judged query: every record that it could list, with a column for each part of its score.

Making a sheet asks postings and vectors; weighing it asks nothing. A turn of a weight, of how readings combine, of
words needed, of a signal or of a blend is arithmetic over the sheet, and gives the list of a search to the last digit.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import IntEnum
from typing import Final, NamedTuple

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray, Mask, distinct
from pale_harbor.core.blend import Listed
from pale_harbor.core.ranking import PreparedQuery, QueryPlan
from pale_harbor.core.ranking.plan import Demand
from pale_harbor.core.ranking.prepared import QueryTerm, TermKind
from pale_harbor.core.sheets.on_demand import OnDemand

# By slab and record id, twice (records,): the order of equals among them, each record's place.
OrderOf = Callable[[IntArray, IntArray], IntArray]


class Numbers(NamedTuple):
    """A reading's numbers that its score before the weight depends on. near, synonym: what such terms are worth."""

    k1: float
    b: float
    near: float
    synonym: float


class Worth(IntEnum):
    """Which number of a reading says what a part is worth: none, its worth is settled; or a knob."""

    SETTLED = 0
    NEAR = 1
    SYNONYM = 2


_WORTHS: Final = {TermKind.NEAR: Worth.NEAR, TermKind.SYNONYM: Worth.SYNONYM}


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class Pieces:
    """What readings find of a query, laid end to end: parts, each a term in a reading in a slab, and their entries.

    readings, worths, worth_of: (parts,), worth_of by `Worth`; turnable: parts whose worth is a knob's;
    amounts: (parts,), idf · times; starts: (parts + 1,);
    places, frequencies, lengths: (entries,): the candidate, how often it holds the term, how long the value is.
    averages: (readings,), the mean length. pool_factors, pool_firsts: of pooled terms, (terms,) and (terms + 1,), each
    some parts in a row; nothing where readings are summed: there the parts of a reading stand in a row.
    """

    readings: IntArray
    amounts: FloatArray
    worths: FloatArray
    worth_of: IntArray
    turnable: IntArray
    starts: IntArray
    places: IntArray
    frequencies: FloatArray
    lengths: IntArray
    averages: FloatArray
    pool_factors: FloatArray
    pool_firsts: IntArray

    @property
    def size_bytes(self) -> int:
        """What they take up in memory."""
        return self.places.nbytes + self.frequencies.nbytes + self.lengths.nbytes + 50 * self.readings.size


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class QuerySheet:
    """Candidates in the order of equals. All arrays (candidates,) unless said.

    plan: of the ranker that it was made for; rule_weights: by field, what rules multiply weights with; slabs,
    record_ids: where each candidate lies; bits: the words that it holds; by_words: whether words found it, the others
    are there for a space; pieces: what scores are made of; columns: (readings, candidates), each reading's score before
    its weight by the `numbers` of the readings, none where they are pooled; signals: (signals, candidates);
    lifted, lifts: (lifts,); lists: by space its nearest candidates, has_vector: whether it has one for the query,
    alike: how alike each candidate is there, None where there is no vector. has_stage: whether there is a second stage;
    second_look: what it finds of each candidate, None where it finds nothing. groups: int64 (candidates,), where a list
    shows one record per group, −1 for none; else empty.
    demand: without words that nobody looks for, None where nothing is asked; everything: whether records that hold
    nothing match it. kind: of queries. grades: int64, −1 where nobody judged; all_grades: int64 (judged records,).
    notes: what keeps the list from meaning what one would think; space_notes: those where spaces are asked;
    stage_notes: those of a second stage.
    """

    plan: QueryPlan
    rule_weights: Sequence[tuple[str, float]]
    slabs: IntArray
    record_ids: IntArray
    bits: IntArray
    by_words: Mask
    pieces: Pieces
    is_pooled: bool
    columns: FloatArray
    numbers: tuple[Numbers, ...]
    signals: FloatArray
    lifted: IntArray
    lifts: FloatArray
    lists: tuple[Listed, ...]
    has_vector: tuple[bool, ...]
    alike: tuple[OnDemand | None, ...]
    has_stage: bool
    second_look: OnDemand | None
    groups: IntArray
    demand: Demand | None
    everything: bool
    kind: str | None
    grades: NDArray[np.int64]
    all_grades: NDArray[np.int64]
    notes: tuple[str, ...] = ()
    space_notes: tuple[str, ...] = ()
    stage_notes: tuple[str, ...] = ()

    @property
    def size_bytes(self) -> int:
        """What it takes up in memory."""
        arrays = (
            self.slabs,
            self.record_ids,
            self.bits,
            self.by_words,
            self.columns,
            self.signals,
            self.grades,
            self.groups,
        )
        lists = self.groups.nbytes + sum(12 * one.record_ids.size for one in self.lists)
        worked_out = [*self.alike, self.second_look]
        lists += sum(one.size_bytes for one in worked_out if one is not None)
        return 2_000 + sum(one.nbytes for one in arrays) + self.pieces.size_bytes + lists


@dataclass(frozen=True, slots=True, eq=False)
class Candidates:
    """Which records a query could list, in the order of equals.

    slabs, record_ids, by_words: (candidates,); found: by slab the ids that words found, ascending; numbers: by slab
    their candidate numbers.
    """

    slabs: IntArray
    record_ids: IntArray
    by_words: Mask
    found: Sequence[IntArray]
    numbers: Sequence[IntArray]
    others: dict[tuple[int, int], int]

    def number_of(self, slab: int, record_id: int) -> int | None:
        """A record's candidate number, None where it is no candidate."""
        ids = self.found[slab]
        at = int(np.searchsorted(ids, record_id))
        if at < ids.size and ids[at] == record_id:
            return int(self.numbers[slab][at])
        return self.others.get((slab, record_id))


def candidates_of(found: Sequence[IntArray], near: Sequence[tuple[int, int]], order_of: OrderOf) -> Candidates:
    """The candidates, numbered. found: by slab the ids that words found, ascending; near: places that spaces list."""
    others = sorted({(slab, one) for slab, one in near if not _holds(found[slab], one)})
    by_words = sum(own.size for own in found)
    slabs = np.concatenate(
        [*(np.full(own.size, slab, np.int32) for slab, own in enumerate(found)), [slab for slab, _ in others]]
    ).astype(np.int32)
    ids = np.concatenate([*found, [one for _, one in others]]).astype(np.int32)
    order = np.argsort(order_of(slabs, ids), kind="stable")
    number = np.empty(order.size, np.int32)
    number[order] = np.arange(order.size, dtype=np.int32)
    numbers, start = list[IntArray](), 0
    for own in found:
        numbers.append(number[start : start + own.size])
        start += own.size
    return Candidates(
        slabs=slabs[order],
        record_ids=ids[order],
        by_words=order < by_words,
        found=found,
        numbers=numbers,
        others=dict(zip(others, number[by_words:].tolist(), strict=True)),
    )


def _holds(ids: IntArray, wanted: int) -> bool:
    at = int(np.searchsorted(ids, wanted))
    return at < ids.size and bool(ids[at] == wanted)


def found_by_words(query: PreparedQuery, allowed: Mask | None) -> IntArray:
    """The records of a slab that the words of a query could list: int32, ascending.

    allowed: bool (records of the slab,), which of them may be listed at all; None: all.
    """
    if query.everything:
        ids = np.arange(query.record_count, dtype=np.int32)
    else:
        holding = [found.record_ids for one in query.readings for _, found in one.found_terms()]
        parts = [*holding, *(marker.record_ids for marker in query.markers)]
        ids = distinct(np.concatenate(parts)).astype(np.int32) if parts else np.empty(0, np.int32)
    return ids if allowed is None else ids[allowed[ids]]


def pieces_of(queries: Sequence[PreparedQuery], candidates: Candidates) -> tuple[Pieces, IntArray]:
    """What a query's scores are made of, and the bits that candidates hold, (candidates,). queries: by slab."""
    bits = np.zeros(candidates.record_ids.size, np.int64)
    parts = _Parts()
    factors: list[float] = []
    firsts = [0]
    for query, ids, own in zip(queries, candidates.found, candidates.numbers, strict=True):
        for prepared in query.readings:
            for term, held in prepared.found_terms():
                at, _ = _places_in(ids, held.record_ids)
                bits[own[at]] |= term.bits
        for marker in query.markers:
            at, _ = _places_in(ids, marker.record_ids)
            bits[own[at]] |= marker.bits
        number_of = {id(prepared): number for number, prepared in enumerate(query.readings)}
        for pooled in query.pool or ():
            if pooled.factor:
                for part in pooled.parts:
                    parts.add(number_of[id(part.prepared)], part.term, ids, own)
                factors.append(pooled.factor)
                firsts.append(len(parts.readings))
    if queries and queries[0].pool is None:
        for number in range(len(queries[0].readings)):
            for query, ids, own in zip(queries, candidates.found, candidates.numbers, strict=True):
                for term in query.readings[number].terms:
                    parts.add(number, term, ids, own)
    averages = [one.statistics.average_length for one in queries[0].readings] if queries else []
    return parts.pieces(averages, factors, firsts), bits


class _Parts:
    """Parts as they are put together."""

    def __init__(self) -> None:
        self.readings: list[int] = []
        self.amounts: list[float] = []
        self.worths: list[float] = []
        self.worth_of: list[Worth] = []
        self.starts = [0]
        self.places: list[IntArray] = []
        self.frequencies: list[FloatArray] = []
        self.lengths: list[IntArray] = []

    def add(self, reading: int, term: QueryTerm, ids: IntArray, numbers: IntArray) -> None:
        """Adds a term's records: ids of the slab that are candidates, with their candidate numbers."""
        held = term.found
        if held is None:
            return
        at, kept = _places_in(ids, held.record_ids)
        self.readings.append(reading)
        self.amounts.append(term.idf * term.times)
        self.worths.append(term.worth)
        # What only matches is worth nothing, whatever a knob says.
        self.worth_of.append(_WORTHS.get(term.kind, Worth.SETTLED) if term.worth else Worth.SETTLED)
        self.starts.append(self.starts[-1] + at.size)
        self.places.append(numbers[at])
        self.frequencies.append(held.frequencies[kept].astype(np.float64))
        self.lengths.append(held.lengths[kept])

    def pieces(self, averages: list[float], factors: list[float], firsts: list[int]) -> Pieces:
        """All of them."""
        return Pieces(
            readings=np.array(self.readings, np.int64),
            amounts=np.array(self.amounts, np.float64),
            worths=np.array(self.worths, np.float64),
            worth_of=np.array(self.worth_of, np.int64),
            turnable=np.flatnonzero(self.worth_of),
            starts=np.array(self.starts, np.int64),
            places=np.concatenate([np.empty(0, np.int32), *self.places]),
            frequencies=np.concatenate([np.empty(0), *self.frequencies]),
            lengths=np.concatenate([np.empty(0, np.int32), *self.lengths]),
            averages=np.array(averages, np.float64),
            pool_factors=np.array(factors, np.float64),
            pool_firsts=np.array(firsts, np.int64),
        )


def _places_in(ids: IntArray, wanted: IntArray) -> tuple[IntArray, IntArray]:
    """Where records stand in `ids`, and which of the wanted ones those are. Both ascending."""
    if not ids.size:
        nothing = np.empty(0, np.int64)
        return nothing, nothing
    at = np.searchsorted(ids, wanted)
    at[at == ids.size] = 0
    kept = np.flatnonzero(ids[at] == wanted)
    return at[kept], kept
