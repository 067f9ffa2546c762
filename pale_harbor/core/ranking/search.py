"""From a prepared query to the first records of its ranked list.

    reading  = Σ parts of its terms, in their order
    score    = Σ weight · reading                            combined as a sum
             = strongest + share · (sum − strongest)         of the weighted readings: the strongest
             = Σ parts of the pooled terms                   pooled

Readings and terms are added in their order, so that every path to a score gives the same digits. Only
postings of the query's terms are touched, never all records.

Two ways lead there. A few terms are merged one after the other: their postings are walked in order
of record, and nothing else is looked up. Many terms are accumulated one after the other in an
array over all records, since a merge would look at every term for every record.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.kernels import kernel
from pale_harbor.core.ranking.bm25 import term_part_in_kernel
from pale_harbor.core.ranking.demands import keeps, program_of
from pale_harbor.core.ranking.found import FoundTerm
from pale_harbor.core.ranking.plan import WordRun
from pale_harbor.core.ranking.prepared import PooledTerm, PreparedQuery, PreparedReading
from pale_harbor.core.ranking.ranker import CombineHow
from pale_harbor.core.ranking.selection import select
from pale_harbor.core.ranking.sheet import Sheet, sheet_of, weigh
from pale_harbor.core.ranking.signals import Signal, with_signals

# From here on accumulating is quicker (measured at a million records).
MOST_MERGED: Final = 12


@dataclass(frozen=True, slots=True, eq=False)
class Scored:
    """Every matched record of a slab, in no order. record_ids: int32, scores: float64, both (matched,)."""

    record_ids: IntArray
    scores: FloatArray

    def where(self, kept: NDArray[np.bool_]) -> "Scored":
        """Those of these records that a mask keeps, with their scores. kept: bool (records,), one for each of these."""
        return Scored(self.record_ids[kept], self.scores[kept])


@dataclass(frozen=True, slots=True, eq=False)
class RankedList:
    """The first records of a list. record_ids: int32, scores: float64, both (top,) at most.

    matched: how many records matched in all, exactly.
    """

    record_ids: IntArray
    scores: FloatArray
    matched: int


@dataclass(frozen=True, slots=True, eq=False)
class Adjustments:
    """What changes scores after the readings. signals: each with its value by record id, before its weight;
    lifts: record ids and what their scores are multiplied with."""

    signals: Sequence[tuple[Signal, FloatArray]] = ()
    lifts: Sequence[tuple[int, float]] = ()


@dataclass(slots=True, eq=False)
class Workspace:
    """Room for accumulating one search at a time over so many records; all zero between searches."""

    record_count: int
    column: FloatArray = field(init=False)
    in_column: IntArray = field(init=False)
    seen: NDArray[np.bool_] = field(init=False)
    total: FloatArray = field(init=False)
    strongest: FloatArray = field(init=False)
    bits: IntArray = field(init=False)
    in_total: IntArray = field(init=False)
    seen_in_total: NDArray[np.bool_] = field(init=False)

    def __post_init__(self) -> None:
        count = self.record_count
        self.column, self.total, self.strongest = np.zeros(count), np.zeros(count), np.zeros(count)
        self.in_column, self.in_total = np.empty(count, np.int32), np.empty(count, np.int32)
        self.seen, self.seen_in_total = np.zeros(count, np.bool_), np.zeros(count, np.bool_)
        self.bits = np.zeros(count, np.int64)


@dataclass(frozen=True, slots=True, eq=False)
class _Sums:
    """Records with the sum of their weighted readings, the strongest of them, and the bits they hold."""

    record_ids: IntArray
    totals: FloatArray
    strongest: FloatArray
    bits: IntArray


def search(
    query: PreparedQuery,
    top: int,
    order_of_equals: IntArray,
    workspace: Workspace,
    most_merged: int = MOST_MERGED,
    adjustments: Adjustments | None = None,
) -> RankedList:
    """The best `top` records. Equal scores go by `order_of_equals`, shape (records,), least first."""
    found = matching_records(query, workspace, most_merged)
    if adjustments is not None:
        found = adjust(found, adjustments)
    return best(found, top, order_of_equals)


def best(found: Scored, top: int, order_of_equals: IntArray) -> RankedList:
    """The best `top` of the matched records.

    order_of_equals: int32 (records of the slab,), each record's place among equals.
    """
    ids, scores = select(found.record_ids, found.scores, order_of_equals, min(top, found.record_ids.size))
    return RankedList(ids, scores, found.record_ids.size)


def matching_records(query: PreparedQuery, workspace: Workspace, most_merged: int = MOST_MERGED) -> Scored:
    """Every living record that matches, with its score before signals."""
    sums = _sum(query, workspace, most_merged)
    if query.everything:
        sums = _with_all_records(sums, query.record_count)
    ids, scores = sums.record_ids, _combine(query, sums)
    kept = None if query.demand is None else keeps(program_of(query.demand, query.plan.ranker.need), sums.bits)
    if query.alive is not None:
        living = query.alive[ids]
        kept = living if kept is None else kept & living
    return Scored(ids, scores) if kept is None else Scored(ids[kept], scores[kept])


def permitted_records(
    query: PreparedQuery, workspace: Workspace, most_merged: int = MOST_MERGED
) -> NDArray[np.bool_] | None:
    """Which records the signs of a query let pass, whatever words they hold: bool (records,), None: all.

    What is left out, quoted, or asked of a field is asked of every list, also of one that looks at meaning.
    """
    plain = 0
    signs = False
    for leaf in query.plan.leaves:
        if isinstance(leaf, WordRun) and leaf.scored and leaf.field is None:
            plain |= sum(1 << bit for _, _, bit in leaf.words if bit >= 0)
        else:
            signs = True
    if query.demand is None or not signs:
        return None
    sums = _with_all_records(_sum(query, workspace, most_merged), query.record_count)
    return keeps(program_of(query.demand, query.plan.ranker.need), sums.bits | plain)


def _sum(query: PreparedQuery, workspace: Workspace, most_merged: int) -> _Sums:
    """Every record that holds anything of the query, dead ones too."""
    if query.sheet is not None:
        sheet = query.sheet
        return _Sums(sheet.record_ids, *weigh(sheet.columns, query.weights), sheet.bits)
    readings = _scored_readings(query)
    if all(len(reading.terms) <= most_merged for reading in readings):
        return _by_merging(query, readings)
    return _by_accumulating(query, readings, workspace)


def sheet_for(query: PreparedQuery) -> Sheet:
    """The score sheet of a query whose readings are not pooled."""
    readings = [_merged_terms(_scored_reading(prepared)) for prepared in query.readings]
    return sheet_of(readings, [(marker.record_ids, marker.bits) for marker in query.markers])


def adjust(found: Scored, adjustments: Adjustments) -> Scored:
    """The same records, signals and lifts in their scores."""
    scores = found.scores
    if adjustments.signals:
        scores = with_signals(scores, [(signal, values[found.record_ids]) for signal, values in adjustments.signals])
    if adjustments.lifts:
        scores = scores.copy()
        lifted = np.flatnonzero(np.isin(found.record_ids, [record_id for record_id, _ in adjustments.lifts]))
        place = dict(zip(found.record_ids[lifted].tolist(), lifted.tolist(), strict=True))
        for record_id, by in adjustments.lifts:
            if record_id in place:
                scores[place[record_id]] *= by
    return Scored(found.record_ids, scores)


def combined_score(query: PreparedQuery, weighted: Sequence[float]) -> float:
    """One record's score from its weighted readings, as every path computes it."""
    total = strongest = 0.0
    for score in weighted:
        total += score
        strongest = max(strongest, score)
    combine = query.plan.ranker.combine
    return strongest + combine.share * (total - strongest) if combine.how is CombineHow.STRONGEST else total


def _combine(query: PreparedQuery, sums: _Sums) -> FloatArray:
    combine = query.plan.ranker.combine
    if combine.how is not CombineHow.STRONGEST:
        return sums.totals
    return sums.strongest + combine.share * (sums.totals - sums.strongest)


def _with_all_records(sums: _Sums, record_count: int) -> _Sums:
    """All records of the slab, those that hold nothing with a score of 0."""
    totals, strongest = np.zeros(record_count), np.zeros(record_count)
    bits = np.zeros(record_count, np.int64)
    totals[sums.record_ids], strongest[sums.record_ids] = sums.totals, sums.strongest
    bits[sums.record_ids] = sums.bits
    return _Sums(np.arange(record_count, dtype=np.int32), totals, strongest, bits)


@dataclass(frozen=True, slots=True, eq=False)
class _ScoredTerm:
    """What a kernel needs of one term: where it stands, its factor, the bits it stands for."""

    found: FoundTerm
    factor: float
    bits: int


@dataclass(frozen=True, slots=True, eq=False, kw_only=True)
class _ScoredReading:
    """Terms that are scored alike: part = factor · f · (k1 + 1) / (f + base + slope · length)."""

    terms: Sequence[_ScoredTerm]
    weight: float
    k1: float
    base: float
    slope: float


def _scored_readings(query: PreparedQuery) -> list[_ScoredReading]:
    if query.pool is not None:
        k1 = query.plan.ranker.combine.k1
        terms = [
            _ScoredTerm(found, term.factor, 0)
            for term in query.pool
            if term.factor and (found := pooled_frequencies(term)) is not None
        ]
        # Which words a record holds is settled reading by reading: not every one finds a word alike.
        holding = [
            _ScoredTerm(found, 0.0, term.bits)
            for prepared in query.readings
            for term, found in prepared.found_terms()
            if term.bits and query.demand is not None
        ]
        return [
            _ScoredReading(terms=terms, weight=1.0, k1=k1, base=k1, slope=0.0),
            _ScoredReading(terms=holding, weight=1.0, k1=1.0, base=1.0, slope=0.0),
        ]
    return [_scored_reading(prepared) for prepared in query.readings]


def _scored_reading(prepared: PreparedReading) -> _ScoredReading:
    base, slope = prepared.norm
    terms = [_ScoredTerm(found, term.factor, term.bits) for term, found in prepared.found_terms()]
    return _ScoredReading(terms=terms, weight=prepared.reading.weight, k1=prepared.reading.k1, base=base, slope=slope)


def pooled_frequencies(term: PooledTerm) -> FoundTerm | None:
    """A pooled term's records with its occurrences of all readings, weighted and measured by length."""
    ids, sums = np.empty(0, np.int32), np.empty(0, np.float64)
    for part in term.parts:
        found = part.term.found
        if found is not None:
            base, slope = part.prepared.length_share
            own = part.multiplier * found.frequencies / (base + slope * found.lengths)
            ids, sums, _, _ = _merge_readings(ids, sums, sums, _no_bits(ids), found.record_ids, own, _no_bits(own), 1.0)
    if not ids.size:
        return None
    lengths = np.ones(ids.size, np.int32)
    for array in (ids, sums, lengths):
        array.setflags(write=False)
    return FoundTerm(ids, sums, lengths)


def _no_bits(like: NDArray[Any]) -> IntArray:
    return np.zeros(like.size, np.int64)


def _by_merging(query: PreparedQuery, readings: Sequence[_ScoredReading]) -> _Sums:
    """Every record that holds anything, in order of record."""
    sums = _Sums(np.empty(0, np.int32), np.empty(0), np.empty(0), np.empty(0, np.int64))
    for reading in readings:
        ids, scores, bits = _merged_terms(reading)
        if ids.size:
            sums = _Sums(
                *_merge_readings(
                    sums.record_ids, sums.totals, sums.strongest, sums.bits, ids, scores, bits, reading.weight
                )
            )
    for marker in query.markers:
        ids = marker.record_ids
        bits = np.full(ids.size, marker.bits, np.int64)
        sums = _Sums(
            *_merge_readings(
                sums.record_ids, sums.totals, sums.strongest, sums.bits, ids, np.zeros(ids.size), bits, 1.0
            )
        )
    return sums


def _merged_terms(reading: _ScoredReading) -> tuple[IntArray, FloatArray, IntArray]:
    """One reading's records in order, their scores before its weight, and their bits."""
    room = sum(term.found.record_ids.size for term in reading.terms)
    ids, scores, bits = np.empty(room, np.int32), np.empty(room), np.empty(room, np.int64)
    next_ids, next_scores, next_bits = np.empty(room, np.int32), np.empty(room), np.empty(room, np.int64)
    count = 0
    for term in reading.terms:
        found = term.found
        parts = np.empty(found.record_ids.size)
        _parts(found.frequencies, found.lengths, term.factor, reading.k1, reading.base, reading.slope, parts)
        count = _merge_term(
            ids, scores, bits, count, found.record_ids, parts, term.bits, next_ids, next_scores, next_bits
        )
        ids, next_ids = next_ids, ids
        scores, next_scores = next_scores, scores
        bits, next_bits = next_bits, bits
    return ids[:count], scores[:count], bits[:count]


def _by_accumulating(query: PreparedQuery, readings: Sequence[_ScoredReading], room: Workspace) -> _Sums:
    """Every record that holds anything, in no order."""
    size = 0
    for reading in readings:
        in_column = 0
        for term in reading.terms:
            in_column = _add_term(
                term.found.record_ids,
                term.found.frequencies,
                term.found.lengths,
                term.factor,
                reading.k1,
                reading.base,
                reading.slope,
                term.bits,
                room.column,
                room.bits,
                room.seen,
                room.in_column,
                in_column,
            )
        size = _add_column(
            room.column,
            room.seen,
            room.in_column[:in_column],
            reading.weight,
            room.total,
            room.strongest,
            room.seen_in_total,
            room.in_total,
            size,
        )
    for marker in query.markers:
        size = _add_marker(marker.record_ids, marker.bits, room.bits, room.seen_in_total, room.in_total, size)
    touched = room.in_total[:size].copy()
    return _Sums(touched, *_take(touched, room.total, room.strongest, room.bits, room.seen_in_total))


@kernel
def _parts(
    frequencies: NDArray[Any], lengths: IntArray, factor: float, k1: float, base: float, slope: float, parts: FloatArray
) -> None:
    for i in range(parts.size):
        parts[i] = term_part_in_kernel(factor, frequencies[i], k1, base + slope * lengths[i])


@kernel
def _merge_term(
    ids: IntArray,
    scores: FloatArray,
    bits: IntArray,
    size: int,
    own_ids: IntArray,
    parts: FloatArray,
    own_bits: int,
    to_ids: IntArray,
    to_scores: FloatArray,
    to_bits: IntArray,
) -> int:
    """A reading's scores so far and one more term, both in order of record; returns the new size.

    Which list goes on next is as good as random: the step is chosen by arithmetic, since a
    processor that guesses at a branch would guess wrong half of the time.
    """
    own_size = own_ids.size
    i = j = count = 0
    while i < size and j < own_size:
        here, there = ids[i], own_ids[j]
        goes, own_goes = here <= there, there <= here
        to_ids[count] = min(here, there)
        to_scores[count] = (scores[i] if goes else 0.0) + (parts[j] if own_goes else 0.0)
        to_bits[count] = (bits[i] if goes else 0) | (own_bits if own_goes else 0)
        i += goes
        j += own_goes
        count += 1
    while i < size:
        to_ids[count], to_scores[count], to_bits[count] = ids[i], scores[i], bits[i]
        i += 1
        count += 1
    while j < own_size:
        to_ids[count], to_scores[count], to_bits[count] = own_ids[j], parts[j], own_bits
        j += 1
        count += 1
    return count


@kernel
def _merge_readings(
    ids: IntArray,
    totals: FloatArray,
    strongest: FloatArray,
    bits: IntArray,
    own_ids: IntArray,
    own_scores: FloatArray,
    own_bits: IntArray,
    weight: float,
) -> tuple[IntArray, FloatArray, FloatArray, IntArray]:
    """The sums so far and one more reading's scores, weighted; both in order of record."""
    room = ids.size + own_ids.size
    to_ids, to_bits = np.empty(room, np.int32), np.empty(room, np.int64)
    to_totals, to_strongest = np.empty(room, np.float64), np.empty(room, np.float64)
    size, own_size = ids.size, own_ids.size
    i = j = count = 0
    while i < size and j < own_size:
        here, there = ids[i], own_ids[j]
        goes, own_goes = here <= there, there <= here
        own = weight * own_scores[j] if own_goes else 0.0
        to_ids[count] = min(here, there)
        to_totals[count] = (totals[i] if goes else 0.0) + own
        to_strongest[count] = max(strongest[i] if goes else 0.0, own)
        to_bits[count] = (bits[i] if goes else 0) | (own_bits[j] if own_goes else 0)
        i += goes
        j += own_goes
        count += 1
    while i < size:
        to_ids[count], to_totals[count] = ids[i], totals[i]
        to_strongest[count], to_bits[count] = strongest[i], bits[i]
        i += 1
        count += 1
    while j < own_size:
        own = weight * own_scores[j]
        to_ids[count], to_totals[count] = own_ids[j], own
        to_strongest[count], to_bits[count] = own, own_bits[j]
        j += 1
        count += 1
    return to_ids[:count], to_totals[:count], to_strongest[:count], to_bits[:count]


@kernel
def _add_term(
    ids: IntArray,
    frequencies: NDArray[Any],
    lengths: IntArray,
    factor: float,
    k1: float,
    base: float,
    slope: float,
    own_bits: int,
    column: FloatArray,
    bits: IntArray,
    seen: Mask,
    in_column: IntArray,
    count: int,
) -> int:
    """Adds one term's parts to `column` and notes records new to it; returns how many are noted."""
    for i in range(ids.size):
        record = ids[i]
        if not seen[record]:
            seen[record] = True
            in_column[count] = record
            count += 1
        column[record] += term_part_in_kernel(factor, frequencies[i], k1, base + slope * lengths[i])
        bits[record] |= own_bits
    return count


@kernel
def _add_column(
    column: FloatArray,
    seen: Mask,
    in_column: IntArray,
    weight: float,
    total: FloatArray,
    strongest: FloatArray,
    seen_in_total: Mask,
    in_total: IntArray,
    count: int,
) -> int:
    """Adds a reading's column to the total and empties it; returns how many records are noted."""
    for i in range(in_column.size):
        record = in_column[i]
        if not seen_in_total[record]:
            seen_in_total[record] = True
            in_total[count] = record
            count += 1
        own = weight * column[record]
        total[record] += own
        strongest[record] = max(strongest[record], own)
        column[record] = 0.0
        seen[record] = False
    return count


@kernel
def _add_marker(
    ids: IntArray, own_bits: int, bits: IntArray, seen_in_total: Mask, in_total: IntArray, count: int
) -> int:
    for record in ids:
        if not seen_in_total[record]:
            seen_in_total[record] = True
            in_total[count] = record
            count += 1
        bits[record] |= own_bits
    return count


@kernel
def _take(
    touched: IntArray, total: FloatArray, strongest: FloatArray, bits: IntArray, seen: Mask
) -> tuple[FloatArray, FloatArray, IntArray]:
    """The touched records' sums, strongest readings and bits, which are set back to nothing."""
    totals, best_parts = np.empty(touched.size, np.float64), np.empty(touched.size, np.float64)
    held = np.empty(touched.size, np.int64)
    for i in range(touched.size):
        record = touched[i]
        totals[i], best_parts[i], held[i] = total[record], strongest[record], bits[record]
        total[record] = strongest[record] = 0.0
        bits[record] = 0
        seen[record] = False
    return totals, best_parts, held
