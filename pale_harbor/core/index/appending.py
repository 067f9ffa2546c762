"""Indexes of parts of the records, built side by side, become the index that one build would have given."""

import numpy as np
from numpy.typing import NDArray

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.index.vocabulary import Vocabulary
from pale_harbor.core.kernels import kernel


def appended_index(first: ReadingIndex, second: ReadingIndex) -> ReadingIndex:
    """The index of the first one's records and, behind them, the second one's. Linear in what both hold."""
    letters, firsts, numbers = _merged_terms(
        first.vocabulary.letters, first.vocabulary.firsts, second.vocabulary.letters, second.vocabulary.firsts
    )
    spans = (first.spans, second.spans)
    if first.spans.size or second.spans.size:
        spans = (_spans(first), _spans(second))
    arrays = _append(
        numbers,
        (first.posting_firsts, second.posting_firsts),
        (first.record_ids, second.record_ids),
        (first.frequencies, second.frequencies),
        (first.posting_lengths, second.posting_lengths),
        (first.occurrence_firsts, second.occurrence_firsts),
        (first.positions, second.positions),
        (first.starts, second.starts),
        (first.ends, second.ends),
        spans,
        first.record_count,
    )
    lengths = np.concatenate([first.lengths, second.lengths])
    for array in (letters, firsts, *arrays, lengths):
        # Arrays mapped from files cannot be written to either: kernels are compiled once for both.
        array.setflags(write=False)
    return ReadingIndex(Vocabulary(letters, firsts), *arrays, lengths)


def _spans(index: ReadingIndex) -> IntArray:
    if index.spans.size:
        return index.spans
    ones = np.ones(index.occurrence_count, np.int32)
    ones.setflags(write=False)
    return ones


@kernel
def _merged_terms(
    letters_a: IntArray, firsts_a: IntArray, letters_b: IntArray, firsts_b: IntArray
) -> tuple[NDArray[np.uint8], IntArray, IntArray]:
    """Two sorted vocabularies as one: letters, firsts, and each term's number in both, -1 where it is not there."""
    count_a, count_b = firsts_a.size - 1, firsts_b.size - 1
    letters = np.empty(letters_a.size + letters_b.size, np.uint8)
    firsts = np.zeros(count_a + count_b + 1, np.int64)
    numbers = np.full((count_a + count_b, 2), -1, np.int64)
    a = b = count = 0
    while a < count_a or b < count_b:
        order = 0
        if a == count_a:
            order = 1
        elif b == count_b:
            order = -1
        else:
            size_a, size_b = firsts_a[a + 1] - firsts_a[a], firsts_b[b + 1] - firsts_b[b]
            i = 0
            while i < size_a and i < size_b and letters_a[firsts_a[a] + i] == letters_b[firsts_b[b] + i]:
                i += 1
            if i < size_a and i < size_b:
                order = -1 if letters_a[firsts_a[a] + i] < letters_b[firsts_b[b] + i] else 1
            elif size_a != size_b:
                order = -1 if size_a < size_b else 1
        end = firsts[count]
        if order <= 0:
            numbers[count, 0] = a
            for i in range(firsts_a[a], firsts_a[a + 1]):
                letters[end] = letters_a[i]
                end += 1
            a += 1
        if order >= 0:
            numbers[count, 1] = b
            if order > 0:
                for i in range(firsts_b[b], firsts_b[b + 1]):
                    letters[end] = letters_b[i]
                    end += 1
            b += 1
        count += 1
        firsts[count] = end
    return letters[: firsts[count]].copy(), firsts[: count + 1].copy(), numbers[:count].copy()


# An array of the one index, and the same of the other.
Both = tuple[IntArray, IntArray]
NineArrays = tuple[IntArray, IntArray, IntArray, IntArray, IntArray, IntArray, IntArray, IntArray, IntArray]


@kernel
def _append(
    numbers: IntArray,
    posting_firsts: Both,
    record_ids: Both,
    frequencies: Both,
    posting_lengths: Both,
    occurrence_firsts: Both,
    positions: Both,
    starts: Both,
    ends: Both,
    spans: Both,
    first_count: int,
) -> NineArrays:
    """The arrays of a ReadingIndex but its lengths, in its order. numbers: of _merged_terms; the others: of both."""
    postings = record_ids[0].size + record_ids[1].size
    occurrences = positions[0].size + positions[1].size
    all_firsts = np.zeros(numbers.shape[0] + 1, np.int64)
    all_ids = np.empty(postings, np.int32)
    all_frequencies = np.empty(postings, np.int32)
    all_lengths = np.empty(postings, np.int32)
    all_occurrences = np.zeros(postings + 1, np.int64)
    all_positions = np.empty(occurrences, np.int32)
    all_starts = np.empty(occurrences, np.int32)
    all_ends = np.empty(occurrences, np.int32)
    all_spans = np.empty(spans[0].size + spans[1].size, np.int32)
    posting = occurrence = 0
    for term in range(numbers.shape[0]):
        for part in range(2):
            number = numbers[term, part]
            if number < 0:
                continue
            for old in range(posting_firsts[part][number], posting_firsts[part][number + 1]):
                all_ids[posting] = record_ids[part][old] + part * first_count
                all_frequencies[posting] = frequencies[part][old]
                all_lengths[posting] = posting_lengths[part][old]
                for i in range(occurrence_firsts[part][old], occurrence_firsts[part][old + 1]):
                    all_positions[occurrence] = positions[part][i]
                    all_starts[occurrence] = starts[part][i]
                    all_ends[occurrence] = ends[part][i]
                    if all_spans.size:
                        all_spans[occurrence] = spans[part][i]
                    occurrence += 1
                posting += 1
                all_occurrences[posting] = occurrence
        all_firsts[term + 1] = posting
    return (
        all_firsts,
        all_ids,
        all_frequencies,
        all_lengths,
        all_occurrences,
        all_positions,
        all_starts,
        all_ends,
        all_spans,
    )
