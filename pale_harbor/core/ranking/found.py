"""Where something that is looked for stands: records, how often in each, and the records' lengths.

A plain term's come straight from the index. Beginnings of words, phrases, words near each other and words of
which enough is held are made up here in the same shape, so that one arithmetic serves them all.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import FloatArray, IntArray, Mask
from pale_harbor.core.index.reading_index import Postings, ReadingIndex
from pale_harbor.core.kernels import kernel

# No token covers more positions.
_WIDEST_SPAN: Final = 1_000


@dataclass(frozen=True, slots=True, eq=False)
class FoundTerm:
    """record_ids: int32 (records,), ascending; frequencies: int32 or float64; lengths: int32, in tokens."""

    record_ids: IntArray
    frequencies: NDArray[Any]
    lengths: IntArray


def found_of(postings: Postings | None) -> FoundTerm | None:
    """A plain term's records."""
    return None if postings is None else FoundTerm(postings.record_ids, postings.frequencies, postings.lengths)


def found_where(index: ReadingIndex, record_ids: IntArray, frequencies: NDArray[Any]) -> FoundTerm | None:
    """Records with their lengths; None where there is none. record_ids, frequencies: (records,)."""
    return _made_of(record_ids, frequencies, index.lengths[record_ids])


def _made_of(record_ids: IntArray, frequencies: NDArray[Any], lengths: IntArray) -> FoundTerm | None:
    if not record_ids.size:
        return None
    for array in (record_ids, frequencies, lengths):
        # Arrays mapped from files cannot be written to either: kernels are compiled once for both.
        array.setflags(write=False)
    return FoundTerm(record_ids, frequencies, lengths)


def any_of(index: ReadingIndex, numbers: IntArray) -> FoundTerm | None:
    """Records that hold any of these terms, as often as all of them together. numbers: (terms,)."""
    times = np.zeros(index.record_count, np.int32)
    _add_frequencies(index.record_ids, index.frequencies, index.posting_firsts, numbers, times)
    record_ids = np.flatnonzero(times).astype(np.int32)
    return found_where(index, record_ids, times[record_ids])


def terms_held(index: ReadingIndex, numbers: IntArray, record_id: int) -> IntArray:
    """Which of these terms a record holds: their numbers. Both (terms,)."""
    return numbers[_which_hold(index.record_ids, index.posting_firsts, numbers, record_id)]


def enough_of(
    index: ReadingIndex, terms: Sequence[Postings], enough: int, alone: Sequence[Postings] = ()
) -> FoundTerm | None:
    """Records that hold at least so many of these terms, or one that is enough alone; each counts once."""
    held = np.zeros(index.record_count, np.int32)
    for postings in terms:
        held[postings.record_ids] += 1
    for postings in alone:
        held[postings.record_ids] = enough
    record_ids = np.flatnonzero(held >= enough).astype(np.int32)
    return found_where(index, record_ids, np.ones(record_ids.size, np.int32))


def found_only(found: FoundTerm | None, kept: Mask) -> FoundTerm | None:
    """Those of the records that a mask keeps. kept: bool (records of `found`,)."""
    if found is None or kept.all():
        return found
    return _made_of(found.record_ids[kept], found.frequencies[kept], found.lengths[kept])


def found_in_either(first: FoundTerm | None, second: FoundTerm | None) -> FoundTerm | None:
    """The records of both, of which none is in both."""
    if first is None or second is None:
        return second if first is None else first
    order = np.argsort(np.concatenate([first.record_ids, second.record_ids]), kind="stable")
    columns = ((first.record_ids, second.record_ids), (first.frequencies, second.frequencies))
    ids, frequencies = (np.concatenate(column)[order] for column in columns)
    return _made_of(ids, frequencies, np.concatenate([first.lengths, second.lengths])[order])


def all_of(index: ReadingIndex, found: Sequence[FoundTerm | None]) -> FoundTerm | None:
    """Records that are in each of these; each counts once. found: one at least."""
    record_ids = found[0].record_ids if found[0] is not None else np.zeros(0, np.int32)
    for other in found[1:]:
        record_ids = np.intersect1d(record_ids, () if other is None else other.record_ids, assume_unique=True)
    return found_where(index, record_ids.astype(np.int32), np.ones(record_ids.size, np.int32))


def phrase(index: ReadingIndex, terms: Sequence[tuple[Postings, int]]) -> FoundTerm | None:
    """Records in which terms stand at their places, and how often.

    terms: each with its place in the phrase, the first at 0.
    """
    record_ids, firsts, _ = phrase_places(index, terms)
    return found_where(index, record_ids, np.diff(firsts).astype(np.int32))


def phrase_places(index: ReadingIndex, terms: Sequence[tuple[Postings, int]]) -> tuple[IntArray, IntArray, IntArray]:
    """Records, the bounds of each record's stretch, and the positions at which the phrase begins."""
    first, _ = terms[0]
    record_ids = first.record_ids
    stretch = slice(int(first.occurrence_firsts[0]), int(first.occurrence_firsts[-1]))
    positions = np.asarray(index.positions[stretch])
    firsts = np.asarray(first.occurrence_firsts) - stretch.start
    for postings, place in terms[1:]:
        record_ids, firsts, positions = _also_at(
            record_ids,
            firsts,
            positions,
            postings.record_ids,
            postings.occurrence_firsts,
            index.positions,
            place,
        )
    return record_ids, firsts, positions


def near(
    index: ReadingIndex, first: Postings, second: Postings, apart: int, gap: int, same_order: bool
) -> FoundTerm | None:
    """Records that hold two terms near each other, and how near: Σ 1 / d² over occurrences of the first.

    d is 1 where the second stands as far behind the first as in the query, and 1 more for each position
    that it is off; beyond `gap` positions nothing counts. apart: positions that the query leaves between
    them. Each occurrence of the first counts with the nearest second.

    Source: Y. Rasolofo and J. Savoy, "Term proximity scoring for keyword-based retrieval systems", 2003.
    """
    record_ids, nearness = _near(
        first.record_ids,
        first.occurrence_firsts,
        second.record_ids,
        second.occurrence_firsts,
        index.positions,
        index.spans,
        apart,
        gap,
        same_order,
    )
    return found_where(index, record_ids, nearness)


@kernel
def _add_frequencies(
    record_ids: IntArray, frequencies: IntArray, posting_firsts: IntArray, numbers: IntArray, times: IntArray
) -> None:
    for number in numbers:
        for i in range(posting_firsts[number], posting_firsts[number + 1]):
            times[record_ids[i]] += frequencies[i]


@kernel
def _which_hold(record_ids: IntArray, posting_firsts: IntArray, numbers: IntArray, record: int) -> Mask:
    """Which of the terms hold a record, by a binary search in the postings of each."""
    held = np.zeros(numbers.size, np.bool_)
    for i in range(numbers.size):
        low, last = posting_firsts[numbers[i]], posting_firsts[numbers[i] + 1]
        high = last
        while low < high:
            middle = (low + high) >> 1
            if record_ids[middle] < record:
                low = middle + 1
            else:
                high = middle
        held[i] = low < last and record_ids[low] == record
    return held


@kernel
def _also_at(
    ids: IntArray,
    firsts: IntArray,
    positions: IntArray,
    other_ids: IntArray,
    other_firsts: IntArray,
    other_positions: IntArray,
    place: int,
) -> tuple[IntArray, IntArray, IntArray]:
    """Of the beginnings so far those at which another term stands `place` positions on."""
    kept_ids = np.empty(min(ids.size, other_ids.size), np.int32)
    kept_firsts = np.zeros(kept_ids.size + 1, np.int64)
    kept = np.empty(positions.size, np.int32)
    count = occurrences = 0
    i = j = 0
    while i < ids.size and j < other_ids.size:
        if ids[i] < other_ids[j]:
            i += 1
        elif ids[i] > other_ids[j]:
            j += 1
        else:
            before = occurrences
            at = other_firsts[j]
            for k in range(firsts[i], firsts[i + 1]):
                while at < other_firsts[j + 1] and other_positions[at] < positions[k] + place:
                    at += 1
                if at < other_firsts[j + 1] and other_positions[at] == positions[k] + place:
                    kept[occurrences] = positions[k]
                    occurrences += 1
            if occurrences > before:
                kept_ids[count] = ids[i]
                count += 1
                kept_firsts[count] = occurrences
            i += 1
            j += 1
    return kept_ids[:count], kept_firsts[: count + 1], kept[:occurrences]


@kernel
def _near(
    ids: IntArray,
    firsts: IntArray,
    other_ids: IntArray,
    other_firsts: IntArray,
    positions: IntArray,
    spans: IntArray,
    apart: int,
    gap: int,
    same_order: bool,
) -> tuple[IntArray, FloatArray]:
    size = min(ids.size, other_ids.size)
    found = np.empty(size, np.int32)
    nearness = np.empty(size, np.float64)
    count = 0
    widest = _WIDEST_SPAN if spans.size else 1
    i = j = 0
    while i < ids.size and j < other_ids.size:
        if ids[i] < other_ids[j]:
            i += 1
        elif ids[i] > other_ids[j]:
            j += 1
        else:
            total = 0.0
            start = other_firsts[j]
            for k in range(firsts[i], firsts[i + 1]):
                best = gap + 1
                span = spans[k] if spans.size else 1
                # Positions ascend in both: what lies too far before this one does so for the next.
                while start < other_firsts[j + 1] and positions[start] + widest < positions[k] - apart - gap:
                    start += 1
                for m in range(start, other_firsts[j + 1]):
                    if positions[m] > positions[k] + span + apart + gap:
                        break
                    own_span = spans[m] if spans.size else 1
                    after = positions[m] - (positions[k] + span)
                    before = positions[k] - (positions[m] + own_span)
                    if after >= 0:
                        best = min(best, abs(after - apart))
                    elif before >= 0 and not same_order:
                        best = min(best, abs(before - apart))
                if best <= gap:
                    total += 1.0 / ((best + 1.0) * (best + 1.0))
            if total > 0.0:
                found[count] = ids[i]
                nearness[count] = total
                count += 1
            i += 1
            j += 1
    return found[:count], nearness[:count]
