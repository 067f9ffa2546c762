"""The index of a collection several times as large: every record several times, so that every posting list is as many
times as long, and lengths are as they are."""

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index import ReadingIndex


def grown_index(index: ReadingIndex, times: int) -> ReadingIndex:
    """The index of `times` copies of all records: copy c of record r is the record c · records + r.

    Its vocabulary is that of now; what new records would bring to it is asked for by nobody yet.
    """
    records = index.record_count
    by_term = np.diff(index.posting_firsts)
    postings = _repeated(index.posting_firsts[:-1], by_term, times)
    copies = np.repeat(np.tile(np.arange(times, dtype=np.int64), by_term.size), np.repeat(by_term, times))
    occurrences = _repeated(
        index.occurrence_firsts[index.posting_firsts[:-1]],
        index.occurrence_firsts[index.posting_firsts[1:]] - index.occurrence_firsts[index.posting_firsts[:-1]],
        times,
    )
    frequencies = index.frequencies[postings]
    return ReadingIndex(
        vocabulary=index.vocabulary,
        posting_firsts=index.posting_firsts * times,
        record_ids=(index.record_ids[postings] + copies * records).astype(np.int32),
        frequencies=frequencies,
        posting_lengths=index.posting_lengths[postings],
        occurrence_firsts=np.concatenate([[0], np.cumsum(frequencies, dtype=np.int64)]),
        positions=index.positions[occurrences],
        starts=index.starts[occurrences],
        ends=index.ends[occurrences],
        spans=index.spans[occurrences] if index.spans.size else index.spans,
        lengths=np.tile(index.lengths, times),
    )


def _repeated(firsts: IntArray, sizes: IntArray, times: int) -> IntArray:
    """Places of stretches that follow each other, each stretch so often before the next one comes."""
    starts = np.repeat(firsts, times)
    lengths = np.repeat(sizes, times)
    before = np.repeat(np.cumsum(lengths) - lengths, lengths)
    return np.repeat(starts, lengths) + np.arange(int(lengths.sum())) - before
