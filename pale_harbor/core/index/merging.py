"""Several indexes of one reading become one: the index that one build would have given."""

from collections.abc import Sequence

import numpy as np

from pale_harbor.core.arrays import IntArray
from pale_harbor.core.index.builder import postings_of
from pale_harbor.core.index.reading_index import ReadingIndex
from pale_harbor.core.index.vocabulary import vocabulary_of


def merged_index(parts: Sequence[tuple[ReadingIndex, IntArray]], record_count: int) -> ReadingIndex:
    """The index of all parts' records under new record ids.

    parts: indexes, each with the new id of every one of its records, int32 (records,), -1 for a
    record that is left out. Every new id below `record_count` comes from one part at most.
    """
    terms = sorted({term for index, ids in parts for term in _terms_that_stay(index, ids)})
    numbers = {term: number for number, term in enumerate(terms)}
    own = [_occurrences(index, ids, numbers) for index, ids in parts]
    columns = [np.concatenate(column) for column in zip(*own, strict=True)] if own else [np.zeros(0, np.int32)] * 6
    # By record; the counting sort by term that follows keeps that order.
    order = np.argsort(columns[1], kind="stable")
    term_ids, records, positions, starts, ends, spans = (column[order] for column in columns)
    arrays = postings_of(term_ids, records, positions, starts, ends, spans, len(terms), record_count)
    return ReadingIndex(vocabulary_of(terms), *arrays)


def _terms_that_stay(index: ReadingIndex, ids: IntArray) -> list[str]:
    stays = np.concatenate([[0], np.cumsum(ids[index.record_ids] >= 0)])
    held = stays[index.posting_firsts[1:]] > stays[index.posting_firsts[:-1]]
    return [term for term, is_held in zip(index.vocabulary, held.tolist(), strict=True) if is_held]


def _occurrences(index: ReadingIndex, ids: IntArray, numbers: dict[str, int]) -> tuple[IntArray, ...]:
    """Term, new record id, position, start, end and span of every occurrence that stays: int32 each."""
    term_of_posting = np.repeat(
        np.array([numbers.get(term, -1) for term in index.vocabulary], np.int32), np.diff(index.posting_firsts)
    )
    terms = np.repeat(term_of_posting, index.frequencies)
    records = np.repeat(ids[index.record_ids].astype(np.int32), index.frequencies)
    stays = records >= 0
    spans = index.spans if index.spans.size else np.ones(records.size, np.int32)
    return tuple(column[stays] for column in (terms, records, index.positions, index.starts, index.ends, spans))
